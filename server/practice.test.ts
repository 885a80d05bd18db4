/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { firstUnitOf, rightBench, type Paths } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { demoServer, pathsOf, seededFolder } from './server.test-support'

/* Any job can be tried on a stand-in first; what is done there is no word on the unit itself. */

let server: Awaited<ReturnType<typeof demoServer>>
let paths: Paths
beforeAll(async () => {
  server = await demoServer(seededFolder())
  paths = pathsOf(server)
})
afterAll(() => server.stop())

const images: Record<string, string> = {
  'fog-signal': 'fs20-main-2.48.hex',
  'station-inverter': 'rel/img1.hex',
  'launch-motor': 'drive-3.6.elf',
  'beacon-receiver': 'for-77120-2.4.0.bin',
  'tide-logger': 'tide-2026-03-16.dfu',
}

/** Every hold released by name, as whoever practises would. */
async function runOf(jobId: string, port: string): Promise<any> {
  const { gates } = await paths.get(`/jobs/${jobId}/ready?port=${port}`)
  const releases = gates
    .flatMap(({ findings }: any) => findings)
    .filter(({ level }: any) => level === 'hold')
    .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'practice' }))
  const { id } = await paths.send('POST', '/runs', { jobId, port, speed: 0, releases })
  return server.follow(id)
}

describe.each(Object.entries(images))('practice of a %s', (family, image) => {
  it('is read like the unit, written to its proof, and leaves the unit’s own record alone', async () => {
    const own = firstUnitOf(family).id
    const jobId = await rightBench(paths, family, image)
    const before = await paths.get(`/units/${own}`)
    const practice = await paths.send('POST', `/units/${own}/practice`, { jobId })
    const port = `stand-in:${practice.unitId}`
    await paths
      .send('POST', `/units/${practice.unitId}/snapshots`, {
        port,
        jobId: practice.jobId,
      })
      .catch(async () => {
        // Where the bench wants a look first, it is answered for at this reading.
        await paths.send('POST', `/units/${practice.unitId}/snapshots`, {
          port,
          looked: ['power-order', 'neighbours-off', 'address-switch', 'one-unit', 'wiring', 'isolation'],
        })
      })
    const twin = await paths.get(`/units/${practice.unitId}`)
    expect(twin.facts.serial ?? twin.serial).toBe(before.serial)
    for (const [component, version] of Object.entries(before.facts.versions))
      expect(twin.facts.versions[component] ?? version, component).toBe(version)
    const state = await runOf(practice.jobId, port)
    expect(state.outcome, JSON.stringify(state.problem)).toBe('proved')
    const after = await paths.get(`/units/${own}`)
    expect(after.snapshots).toEqual(before.snapshots)
    expect(after.runs).toEqual(before.runs)
    expect(after.facts).toEqual(before.facts)
  })
})

describe('practice and work never meet', () => {
  const own = firstUnitOf('fog-signal').id
  it('a practised unit is reached over its own stand-in alone, and that answers for no other', async () => {
    const jobId = await rightBench(paths, 'fog-signal', 'fs20-main-2.48.hex')
    const practice = await paths.send('POST', `/units/${own}/practice`, { jobId })
    const kinds = async (path: string, form: object) => (await server.send('POST', path, form)).body.kind
    expect(await kinds('/runs', { jobId: practice.jobId, port: `stand-in:${own}`, speed: 0 })).toBe(
      'practice-only',
    )
    expect(await kinds('/runs', { jobId, port: `stand-in:${practice.unitId}`, speed: 0 })).toBe(
      'practice-only',
    )
    expect(await kinds(`/units/${own}/snapshots`, { port: `stand-in:${practice.unitId}`, looked: [] })).toBe(
      'practice-only',
    )
    expect(await kinds(`/units/${practice.unitId}/snapshots`, { port: `stand-in:${own}`, looked: [] })).toBe(
      'practice-only',
    )
  })
  it('begins from the unit’s state again, and keeps one unit for it', async () => {
    const first = await paths.send('POST', `/units/${own}/practice`, {})
    const again = await paths.send('POST', `/units/${own}/practice`, {})
    expect(again).toEqual({ unitId: first.unitId, jobId: null })
    const units: any[] = await paths.get('/units')
    expect(units.filter(({ id }) => id === first.unitId)).toHaveLength(1)
    // An image is not said to fit what is only practised on.
    const images: any[] = await paths.get('/images')
    const image = images.find(({ names }) => names.includes('fs20-main-2.48.hex'))
    const fits: any[] = await paths.get(`/fit/image/${image.id}`)
    expect(fits.map(({ unitId }) => unitId)).toContain(own)
    expect(fits.map(({ unitId }) => unitId)).not.toContain(first.unitId)
    // Of practice no practice is made.
    expect((await paths.send('POST', `/units/${first.unitId}/practice`, {})).unitId).toBe(first.unitId)
  })
  it('of a unit that takes a card: written onto its stand-in’s own, searched by it, and said by its screen', async () => {
    const jobId = await rightBench(paths, 'helm-display', 'helm-3.2.hex', 'helm-1')
    // No card of the unit itself counts for practice.
    const practice = await paths.send('POST', '/units/helm-1/practice', { jobId })
    const job = `/jobs/${practice.jobId}`
    expect((await paths.get(job)).bench.card).toBeUndefined()
    const gatesOf = async () => (await paths.get(`${job}/ready`)).gates as any[]
    const cardOf = async () => (await gatesOf()).find(({ id }) => id === 'card')
    expect((await cardOf()).verdict).toBe('stop')
    expect((await paths.get(`${job}/stand-in-card`)).card).toBeNull()
    const tell = ({ card }: any) =>
      paths.send('PUT', `${job}/bench`, {
        card: { at: Date.now(), files: card.files, ordered: true, mediumBytes: card.bytes, standIn: true },
      })
    await tell(await paths.send('POST', `${job}/stand-in-card`, {}))
    expect((await cardOf()).verdict).toBe('go')
    await tell(await paths.send('PUT', `${job}/stand-in-card`, { hand: 'copied-anew' }))
    expect((await cardOf()).findings[0].rule).toBe('card-order')
    await tell(await paths.send('PUT', `${job}/stand-in-card`, { hand: 'as-written' }))
    const releases = (await gatesOf())
      .flatMap(({ findings }: any) => findings)
      .filter(({ level }: any) => level === 'hold')
      .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'practice' }))
    const { id } = await paths.send('POST', '/runs', { jobId: practice.jobId, releases })
    const screens: Record<string, string[]> = {}
    const state = await server.follow(id, async ({ prompt, answers }) => {
      screens[prompt] = (await paths.get(`${job}/stand-in-card`)).shows
      // What the unit shows is read from its screen.
      if (prompt === 'look') return screens[prompt]!.includes('Firmware: 3.2') ? 'wanted' : 'other'
      return answers[0]!.id
    })
    expect(state.outcome).toBe('proved')
    expect(state.facts.port).toMatchObject({ standIn: true, name: expect.stringContaining('Stand-in') })
    expect(screens['media.found']!.join()).toContain('Update found: HELM.BIN')
    expect(screens['look']).toContain('Firmware: 3.2')
    // The unit's own stand-in is another one, and still as it was.
    const own = await paths.get(`/jobs/${jobId}/stand-in-card`)
    expect(own).toMatchObject({ unitId: 'helm-1', card: null })
    expect(own.shows).toContain('Firmware: 3.1')
  })
  it('keeps no card where the unit has no stand-in that takes one', async () => {
    const jobId = await rightBench(paths, 'fog-signal', 'fs20-main-2.48.hex')
    expect(await paths.get(`/jobs/${jobId}/stand-in-card`)).toBeNull()
    expect((await server.send('PUT', `/jobs/${jobId}/stand-in-card`, { hand: 'old-file' })).body.kind).toBe(
      'not-found',
    )
  })
  it('says so where there is nothing to practise on', async () => {
    // Equipment whose profile tells of no link that this program drives.
    const { drive: _, ...undriven } = tideGateProfile.links[0]!
    await paths.send('POST', '/families', { ...tideGateProfile, id: 'told-only', links: [undriven] })
    const unit = { familyId: 'told-only', name: 'Gate', place: 'Sluice', serial: 'TG-9' }
    const { id } = await paths.send('POST', '/units', unit)
    expect((await server.send('POST', `/units/${id}/practice`, {})).body.kind).toBe('no-stand-in')
  })
})
