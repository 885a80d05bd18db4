/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { firstUnitOf, rightBench, type Paths } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, pathsOf, seededFolder } from './server.test-support'

/* PRACTICE G1, G4, common practice: the original is read out before the first write; putting it back is a run like any other. */

let server: Awaited<ReturnType<typeof demoServer>>
let paths: Paths
beforeAll(async () => {
  server = await demoServer(seededFolder())
  paths = pathsOf(server)
})
afterAll(() => server.stop())

/** Workshop rule on originals: whether one is read out before every first write. */
const readOut = async (backup: 'always' | 'family') => {
  const { by: _by, at: _at, ...policy } = await paths.get('/workshop-rules')
  await paths.send('PUT', '/workshop-rules', { policy: { ...policy, backup }, by: 'A. Lund' })
}

const gatesOf = async (jobId: string, port: string): Promise<any[]> =>
  (await paths.get(`/jobs/${jobId}/ready?port=${port}`)).gates

/** Runs a job, unpaced, with every hold released and every question answered by its first answer. */
async function runOf(jobId: string, port: string): Promise<any> {
  const releases = (await gatesOf(jobId, port))
    .flatMap(({ findings }) => findings)
    .filter(({ level }) => level === 'hold')
    .map(({ rule }) => ({ rule, name: 'A. Lund', reason: 'the owner agrees' }))
  const { id } = await paths.send('POST', '/runs', { jobId, port, speed: 0, releases })
  return server.follow(id)
}

/** Every write of a job's way, one after the other; the state of each. */
async function runAll(jobId: string, port: string): Promise<any[]> {
  const states: any[] = []
  while ((await paths.get(`/jobs/${jobId}`)).left.length > 0) {
    const state = await runOf(jobId, port)
    states.push(state)
    if (state.outcome !== 'proved') break
  }
  return states
}

/** A job that puts back what was read out of the unit, as its page offers it. */
async function restoreOf(familyId: string, firstJob: string): Promise<string> {
  const { id: unitId } = firstUnitOf(familyId)
  // The newest is on top: the first part of several was read out first.
  const { backups } = await paths.get(`/units/${unitId}`)
  const { id } = await paths.send('POST', '/jobs', {
    unitId,
    imageId: backups.at(-1).imageId,
    kind: 'fault',
    reason: 'The new version does not suit; the original is wanted back.',
    day: new Date().toISOString().slice(0, 10),
  })
  const { bench } = await paths.get(`/jobs/${firstJob}`)
  await paths.send('PUT', `/jobs/${id}/bench`, bench)
  return id
}

describe('the original put back', () => {
  describe.each([
    ['station-inverter', 'rel/img1.hex', ['power', 'panel'], '3.4'],
    ['buoy-battery', 'bp5_update.s19', ['bms'], '31.07'],
  ])('%s, part by part', (familyId, image, components, old) => {
    const { id: unitId } = firstUnitOf(familyId)
    const port = `stand-in:${unitId}`
    const original = components.map(() => old)
    let jobId: string
    const versions = async () => {
      const { facts } = await paths.get(`/units/${unitId}`)
      return components.map((component) => facts.versions[component])
    }
    it('is read out before it is written over', async () => {
      await readOut('always')
      jobId = await rightBench(paths, familyId, image)
      expect(await versions()).toEqual(original)
      const there = await runAll(jobId, port)
      expect(there.map(({ outcome }) => outcome)).toEqual(components.map(() => 'proved'))
      expect(there.at(-1).backups).toMatchObject([{ reads: 2, widthBits: 16 }])
      expect(await versions()).not.toContain(old)
    })
    it('and comes back', async () => {
      // What is written over now is on the shelf already: it is not read out once more.
      await readOut('family')
      const back = await runAll(await restoreOf(familyId, jobId), port)
      expect(back.map(({ outcome }) => outcome)).toEqual(components.map(() => 'proved'))
      expect(await versions()).toEqual(original)
    })
  })
  // PRACTICE B12: some families take nothing older; that is said before, and no name opens it.
  it('a receiver that takes nothing older: judged like any other image, and stopped', async () => {
    const jobId = await rightBench(paths, 'beacon-receiver', 'for-77120-2.4.0.bin')
    const port = 'stand-in:beacon-7'
    expect((await runOf(jobId, port)).outcome).toBe('proved')
    const restore = await restoreOf('beacon-receiver', jobId)
    const fit = (await gatesOf(restore, port)).find(({ id }) => id === 'fit')
    expect(fit.verdict).toBe('stop')
    const refused = await server.send('POST', '/runs', { jobId: restore, port, speed: 0 })
    expect(refused).toMatchObject({ status: 409, body: { kind: 'gate-not-go' } })
  })
})
