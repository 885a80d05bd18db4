/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { takeDownOf } from '@bench-wake/core/ready'
import { demoFamily, firstUnitOf, rightBench, type Paths } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, pathsOf, seededFolder } from './server.test-support'

/* PRACTICE G1, G4, H2, J1, common practice: reading out, comparing and reading codes are jobs of their own. */

let server: Awaited<ReturnType<typeof demoServer>>
let paths: Paths
beforeAll(async () => {
  server = await demoServer(seededFolder())
  paths = pathsOf(server)
})
afterAll(() => server.stop())

const today = () => new Date().toISOString().slice(0, 10)
const shelf = new Map<string, string>()
/** A job that writes nothing, with the bench of one that is right. */
async function lookJob(familyId: string, task: string, of: string, imageId: string | null = null) {
  const right = shelf.get(of) ?? (await rightBench(paths, familyId, of))
  shelf.set(of, right)
  const { bench, job } = await paths.get(`/jobs/${right}`)
  const { id } = await paths.send('POST', '/jobs', {
    unitId: firstUnitOf(familyId).id,
    componentId: job.componentId,
    task,
    imageId,
    reason: 'The owner wants to know.',
    day: today(),
  })
  await paths.send('PUT', `/jobs/${id}/bench`, bench)
  return { id: id as string, writing: right }
}
const portOf = (familyId: string) => `stand-in:${firstUnitOf(familyId).id}`
const gatesOf = async (jobId: string, familyId: string): Promise<any[]> =>
  (await paths.get(`/jobs/${jobId}/ready?port=${portOf(familyId)}`)).gates
const taskGate = async (jobId: string, familyId: string) =>
  (await gatesOf(jobId, familyId)).find(({ id }) => id === 'task')

/** Runs a job with every hold released; questions get the answer that is named, else their first. */
async function runOf(jobId: string, familyId: string, answers: Record<string, string> = {}): Promise<any> {
  const releases = (await gatesOf(jobId, familyId))
    .flatMap(({ findings }) => findings)
    .filter(({ level }) => level === 'hold')
    .map(({ rule }) => ({ rule, name: 'A. Lund', reason: 'the owner agrees' }))
  const { id } = await paths.send('POST', '/runs', { jobId, port: portOf(familyId), speed: 0, releases })
  return server.follow(id, ({ prompt, answers: [first] }) => answers[prompt] ?? first!.id)
}
/** All that a bench had joined or taken off, by the profile. */
const joinedIn = async (jobId: string, familyId: string): Promise<string[]> =>
  takeDownOf(demoFamily(familyId), (await paths.get(`/jobs/${jobId}`)).bench, { ran: true, real: false }).map(
    ({ id }) => id,
  )
const unitOf = (familyId: string) => paths.get(`/units/${firstUnitOf(familyId).id}`)

describe('reading out and nothing else', () => {
  const family = 'tide-logger'
  it('is kept as what the unit came with; nothing is erased or written, and the unit says what it said', async () => {
    const before = await unitOf(family)
    const { id } = await lookJob(family, 'read-out', 'tide-2026-03-16.dfu')
    expect((await paths.get(`/jobs/${id}`)).headline).toMatchObject({ verdict: 'go' })
    const state = await runOf(id, family)
    expect(state).toMatchObject({ outcome: 'done', acknowledged: 0 })
    expect(state.facts.image).toBeUndefined()
    expect(state.steps.map(({ kind }: any) => kind)).not.toContain('write')
    expect(state.steps.map(({ kind }: any) => kind)).not.toContain('erase')
    expect(state.backups).toMatchObject([{ reads: 2, name: expect.stringContaining(', original, ') }])
    expect(state.findings).toMatchObject([{ rule: 'unchanged-lines', level: 'go' }])
    const after = await unitOf(family)
    expect(after.facts.versions).toEqual(before.facts.versions)
    expect(after.backups).toMatchObject([{ original: true, sha256: state.backups[0].sha256 }])
    // What it found out is the last word where no other is given.
    const tookDown = await joinedIn(id, family)
    const closed = await paths.send('POST', `/jobs/${id}/close`, { name: 'A. Lund', tookDown })
    expect(closed).toMatchObject({ cameTo: 'looked', headline: { verdict: 'go' } })
    expect(closed.job.closingNote).toContain(state.backups[0].name)
  })
  it('the same bytes read again are the same original', async () => {
    const { id } = await lookJob(family, 'read-out', 'tide-2026-03-16.dfu')
    const again = await runOf(id, family)
    const { backups } = await unitOf(family)
    expect(backups).toHaveLength(1)
    expect(backups[0]).toMatchObject({ original: true })
    expect(again.backups[0]).toMatchObject({
      sha256: backups[0].sha256,
      name: expect.stringContaining('as found'),
    })
  })
  it('after a write of this bench it is as found, and the original stays what it was', async () => {
    const original = (await unitOf(family)).backups[0].sha256
    const { id, writing } = await lookJob(family, 'read-out', 'tide-2026-03-16.dfu')
    expect((await runOf(writing, family)).outcome).toBe('proved')
    await runOf(id, family)
    const { backups } = await unitOf(family)
    expect(backups.map((each: any) => [each.original, each.sha256 === original])).toEqual([
      [false, false],
      [true, true],
    ])
  })
})

describe('what this bench wrote is not read out as an original', () => {
  // The receiver's way leads over an intermediate release.
  it('the second hop of a way has the first one on the shelf', async () => {
    const family = 'tide-logger'
    const { writing } = await lookJob(family, 'read-out', 'tide-2026-03-16.dfu')
    const { known: _known, ...job } = await paths.get(`/jobs/${writing}`)
    // Written and proved above: whatever is written next, what is in it is known.
    const again = await paths.send('POST', '/jobs', {
      unitId: job.unit.id,
      imageId: job.image.id,
      reason: 'Again',
      day: today(),
    })
    await paths.send('PUT', `/jobs/${again.id}/bench`, job.bench)
    const original = (await gatesOf(again.id, family)).find(({ id }) => id === 'original')
    expect(original.findings[0]).toMatchObject({
      level: 'go',
      says: expect.stringContaining('on the shelf'),
      because: expect.stringContaining('The original is kept'),
    })
    const { plan } = await paths.get(`/jobs/${again.id}`)
    expect(plan.map(({ kind }: any) => kind)).not.toContain('backup')
  })
})

describe('comparing an image with the unit, and nothing else', () => {
  const family = 'buoy-battery'
  it('says what it holds and what it does not, and writes neither', async () => {
    const images: any[] = await paths.get('/images')
    const named = (name: string) => images.find(({ names }) => names.includes(name))
    const wanted = named('bp5_update.s19')
    const { id, writing } = await lookJob(family, 'check', 'bp5_update.s19')
    expect((await taskGate(id, family)).findings[0]).toMatchObject({ level: 'stop' })
    await paths.send('PATCH', `/jobs/${id}`, { imageId: wanted.id })
    expect((await taskGate(id, family)).verdict).not.toBe('stop')
    const other = await runOf(id, family)
    expect(other).toMatchObject({ outcome: 'done', heldAgainst: { outcome: 'different' }, acknowledged: 0 })
    expect((await paths.get(`/jobs/${id}`)).headline.says).toContain('does not hold')

    expect((await runOf(writing, family)).outcome).toBe('proved')
    const same = await lookJob(family, 'check', 'bp5_update.s19', wanted.id)
    const state = await runOf(same.id, family)
    expect(state).toMatchObject({ outcome: 'done', heldAgainst: { outcome: 'equal-checksum' } })
    expect((await paths.get(`/jobs/${same.id}`)).headline.says).toContain('It holds')
  })
  it('an image that lies outside the unit’s memory is told, and the job still opens', async () => {
    const images: any[] = await paths.get('/images')
    const other = images.find(({ identity }) => identity && identity.familyId === 'fog-signal')
    const { id } = await lookJob(family, 'check', 'bp5_update.s19', other.id)
    const gate = await taskGate(id, family)
    expect(gate.findings[0]).toMatchObject({ level: 'stop', says: expect.stringContaining(other.name) })
  })
})

describe('reading the fault codes, and nothing else', () => {
  const family = 'launch-motor'
  const of = 'drive-3.6.elf'
  it('a unit that keeps none is asked nothing', async () => {
    const { id } = await lookJob(family, 'codes', of)
    const state = await runOf(id, family)
    expect(state).toMatchObject({ outcome: 'done', faults: { before: 'none', kept: true } })
    expect(state.questions.filter(({ step }: any) => state.steps[step].kind === 'faults')).toEqual([])
    expect((await paths.get(`/jobs/${id}`)).headline.says).toContain('no fault code')
  })
})

describe('what a link cannot do is said before', () => {
  it.each([
    ['fog-signal', 'read-out', 'fs20-main-2.48.hex'],
    ['fog-signal', 'codes', 'fs20-main-2.48.hex'],
  ])('%s: %s', async (family, task, of) => {
    const { id } = await lookJob(family, task, of)
    expect((await taskGate(id, family)).findings[0]).toMatchObject({ rule: 'task', level: 'stop' })
    const refused = await server.send('POST', '/runs', { jobId: id, port: portOf(family), speed: 0 })
    expect(refused).toMatchObject({ status: 409, body: { kind: 'gate-not-go' } })
  })
})

// PRACTICE C7, E10, common practice: a chip that came ready programmed is told by its label and mark alone.
describe('a chip that came ready programmed', () => {
  const family = 'signal-desk'
  const unitId = firstUnitOf(family).id
  const chipJob = async (chip?: object) => {
    const { id } = await lookJob(family, 'chip', 'birch.rom')
    if (chip) await paths.send('PUT', `/jobs/${id}/bench`, { chip })
    return id
  }
  const run = async (jobId: string, answers: Record<string, string>): Promise<any> => {
    const { gates } = await paths.get(`/jobs/${jobId}/ready`)
    const releases = gates
      .flatMap(({ findings }: any) => findings)
      .filter(({ level }: any) => level === 'hold')
      .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'the owner agrees' }))
    const { id } = await paths.send('POST', '/runs', { jobId, releases })
    return server.follow(id, ({ prompt, answers: [first] }) => answers[prompt] ?? first!.id)
  }
  it('is refused until its label and mark are noted', async () => {
    for (const chip of [undefined, { label: 'CEDAR', mark: ' ' }, { label: '', mark: '29F040' }]) {
      const id = await chipJob(chip)
      const { gates } = await paths.get(`/jobs/${id}/ready`)
      expect(gates.find((gate: any) => gate.id === 'task').verdict).toBe('stop')
      expect((await server.send('POST', '/runs', { jobId: id })).body.kind).toBe('gate-not-go')
    }
  })
  it('goes in without the steps of a blank one, and is proved by what the unit shows', async () => {
    const id = await chipJob({ label: 'CEDAR 5', mark: '29F040 2612', version: 'CEDAR' })
    const state = await run(id, { look: 'wanted' })
    expect(state).toMatchObject({
      outcome: 'proved',
      facts: { task: 'chip', chip: { label: 'CEDAR 5', mark: '29F040 2612' } },
    })
    expect(state.facts.image).toBeUndefined()
    const wake: any[] = await paths.get(`/runs/${state.facts.runId}/wake`)
    const asked = wake.flatMap(({ body }) => (body.type === 'prompt.asked' ? [body.prompt] : []))
    expect(asked).toContain('swap.new-in')
    for (const step of ['swap.blank', 'swap.program', 'swap.compare']) expect(asked).not.toContain(step)
    expect((await paths.get(`/units/${unitId}`)).facts.versions).toMatchObject({ chip: 'CEDAR' })
  })
  it('that shows something else is not proved', async () => {
    for (const look of ['other', 'none']) {
      const id = await chipJob({ label: 'CEDAR 5', mark: '29F040 2612', version: 'CEDAR' })
      const state = await run(id, { look })
      expect(state.outcome, look).toBe('failed')
      await paths.send('POST', `/jobs/${id}/close`, {
        name: 'A. Lund',
        note: 'The old chip is back.',
        tookDown: ['adapter', ...(await joinedIn(id, family))],
      })
    }
  })
  it('whose label says no version wants a closing word on what the unit shows', async () => {
    const id = await chipJob({ label: 'CEDAR 5', mark: '29F040 2612' })
    const state = await run(id, { look: 'starts' })
    expect(state.outcome).toBe('proved')
    expect(state.findings).toMatchObject([{ rule: 'version-proved', level: 'hold' }])
    const failed = await chipJob({ label: 'CEDAR 5', mark: '29F040 2612' })
    expect((await run(failed, { look: 'none' })).outcome).toBe('failed')
  })
})
