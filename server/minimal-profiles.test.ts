/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { readFamily } from '@bench-wake/core/family'
import { demoFamilies, firstUnitOf } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openDatabase } from './db/open'
import { demoServer, seededFolder } from './server.test-support'
import { readSettings } from './settings'
import { addFamily } from './store/families'

/*
 * The demo's families with every optional part taken out of their profiles: a job over the public paths is started, or
 * refused by the gate that really refuses, with its reason and its way out.
 */

const optional = [
  'backup',
  'isolation',
  'powerOrder',
  'kit',
  'retries',
  'postUpdateTasks',
  'questions',
  'advisories',
  'factory',
  'panel',
]
const optionalOfPower = ['supply', 'caution', 'inverter', 'measure']

function bare(document: Record<string, any>): Record<string, any> {
  const copy = structuredClone(document)
  for (const key of optional) delete copy[key]
  // Reading an original over the slow vehicle bus, twice, says nothing more than over the other links.
  if (document['id'] === 'launch-motor') copy['backup'] = document['backup']
  for (const key of optionalOfPower) delete copy['power'][key]
  for (const link of copy['links']) delete link['wiring']
  for (const way of copy['entry']) {
    delete way['script']
    delete way['power']
  }
  for (const component of copy['components']) delete component['usualMs']
  copy['revision'] = 1000
  readFamily(copy)
  return copy
}

const images: Record<string, string> = {
  'fog-signal': 'fs20-main-2.48.hex',
  'station-inverter': 'rel/img1.hex',
  'buoy-battery': 'bp5_update.s19',
  'launch-motor': 'drive-4.1.elf',
  'tide-logger': 'tide-2026-09-02.dfu',
  'beacon-receiver': 'for-77120-2.4.0.bin',
  'mains-relay': 'quay-relay-2.1.uf2',
}

/** Volts that stand well between a family's limits. */
function usualVolts(familyId: string): number {
  const { floorVolts, ceilingVolts } = (demoFamilies as any[]).find(({ id }) => id === familyId).power
  return (floorVolts + ceilingVolts) / 2
}

let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  const folder = seededFolder()
  const { db, close } = await openDatabase(readSettings({ BENCH_WAKE_DATA: folder }).databaseUrl)
  for (const document of demoFamilies) await addFamily(db, bare(document as any))
  close()
  server = await demoServer(folder)
})
afterAll(() => server.stop())

async function jobOf(familyId: string, imageId: string | null): Promise<string> {
  const { body } = await server.send('POST', '/jobs', {
    unitId: firstUnitOf(familyId).id,
    imageId,
    kind: 'feature',
    reason: 'A profile that says next to nothing.',
    day: new Date().toISOString().slice(0, 10),
  })
  await server.send('PUT', `/jobs/${body.id}/bench`, {
    laptop: { onMains: true, minutesLeft: null },
    measured: { volts: usualVolts(familyId), shed: [], charger: null },
    isolation: { alone: true },
  })
  return body.id
}

describe('a profile without any optional part', () => {
  it('without an image is refused by the gate of the image, in words', async () => {
    const jobId = await jobOf('tide-logger', null)
    const { body } = await server.get(`/jobs/${jobId}/ready?port=stand-in:${firstUnitOf('tide-logger').id}`)
    expect(body.verdict).toBe('unknown')
    const silent = body.gates.filter(({ verdict }: any) => verdict === 'unknown')
    expect(silent.map(({ id, unjudged }: any) => [id, unjudged?.says])).toEqual([
      ['fit', 'No image is chosen.'],
    ])
    const refused = await server.send('POST', '/runs', { jobId, port: 'stand-in:tide-2', speed: 0 })
    expect(refused).toMatchObject({ status: 409, body: { kind: 'gate-not-go' } })
  })
  it.each(Object.entries(images))(
    '%s reaches a start, or a refusal that names its way out',
    async (familyId, name) => {
      const { id: unitId } = firstUnitOf(familyId)
      const port = `stand-in:${unitId}`
      const shelf = (await server.get('/images')).body as { id: string; names: string[] }[]
      const imageId = shelf.find(({ names }) => names.includes(name))!.id
      const jobId = await jobOf(familyId, imageId)
      const { gates } = (await server.get(`/jobs/${jobId}/ready?port=${port}`)).body
      for (const gate of gates as any[]) {
        expect(gate.verdict, gate.id).not.toBe('unknown')
        expect(gate.findings.length, gate.id).toBeGreaterThan(0)
      }
      const findings = gates.flatMap((gate: any) => gate.findings) as any[]
      const holds = findings.filter(({ level }) => level === 'hold')
      const stops = findings.filter(({ level }) => level === 'stop')
      for (const { remedy, says } of [...holds, ...stops]) expect(remedy, says).toBeTruthy()

      // With nothing released, what refuses is a gate that really holds, by its own rule.
      const held = await server.send('POST', '/runs', { jobId, port, speed: 0 })
      if (held.status >= 400) {
        expect(held.body.kind).toBe('gate-not-go')
        expect([...holds, ...stops].map(({ rule }) => rule)).toContain(held.body.place.at)
        expect(JSON.stringify(held.body)).not.toMatch(/[Cc]hoose an image/)
      }
      const releases = holds.map(({ rule }) => ({ rule, name: 'A. Lund', reason: 'a test' }))
      const run =
        held.status < 400 ? held : await server.send('POST', '/runs', { jobId, port, speed: 0, releases })
      if (stops.length > 0) {
        expect(run.status).toBe(409)
        return
      }
      expect(run.status, JSON.stringify(run.body)).toBeLessThan(300)
      const state = await server.follow(run.body.id)
      // A stand-in speaks what its profile says: it is proved, or its failure says what to do.
      if (state.outcome !== 'proved') expect(state.problem.remedy).toBeTruthy()
      expect(['proved', 'failed']).toContain(state.outcome)
    },
  )
})
