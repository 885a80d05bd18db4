/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { demoBenches, demoUnits, firstUnitOf, rightBench, type Paths } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, pathsOf, seededFolder } from './server.test-support'

/* PRACTICE C2, J3, J4, common practice: what is known is not asked twice, and the record holds what the bench was. */

let server: Awaited<ReturnType<typeof demoServer>>
let paths: Paths
beforeAll(async () => {
  server = await demoServer(seededFolder())
  paths = pathsOf(server)
})
afterAll(() => server.stop())

const newJob = async (unitId: string): Promise<string> =>
  (
    await paths.send('POST', '/jobs', {
      unitId,
      reason: 'The next one.',
      day: new Date().toISOString().slice(0, 10),
    })
  ).id

describe('what was said once', () => {
  const family = 'buoy-battery'
  let jobId: string
  it('stands in the wake: volts, who was taken off, steps of power, and what each gate said of it', async () => {
    jobId = await rightBench(paths, family, 'bp5_update.s19')
    const port = `stand-in:${firstUnitOf(family).id}`
    const { gates } = await paths.get(`/jobs/${jobId}/ready?port=${port}`)
    const releases = gates
      .flatMap(({ findings }: any) => findings)
      .filter(({ level }: any) => level === 'hold')
      .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'the owner agrees' }))
    const { id } = await paths.send('POST', '/runs', { jobId, port, speed: 0, releases })
    expect((await server.follow(id)).outcome).toBe('proved')
    const [opened] = await paths.get(`/runs/${id}/wake`)
    const { bench } = await paths.get(`/jobs/${jobId}`)
    expect(opened.body.bench).toMatchObject({
      measured: bench.measured,
      isolation: demoBenches[family]!.isolation,
      order: demoBenches[family]!.order,
    })
    expect(opened.body.gates.map(({ id: gate }: any) => gate)).toEqual(
      expect.arrayContaining(['power', 'wiring', 'isolation', 'order']),
    )
    // It is no part of the run as every list gets it.
    expect((await paths.get(`/runs/${id}`)).state.facts).not.toHaveProperty('bench')
  })
  it('is offered to the next job of the same unit, and the cable alone to another unit', async () => {
    const { id: first } = firstUnitOf(family)
    const own = await paths.get(`/jobs/${await newJob(first)}/carried`)
    expect(own.from).toMatchObject({ jobId, sameUnit: true })
    expect(own.bench.wiring).toMatchObject({ adapterId: demoBenches[family]!.wiring!.adapterId })
    expect(own.bench).not.toHaveProperty('measured')
    expect(own.bench).not.toHaveProperty('isolation')
    expect(own.bench).not.toHaveProperty('order')
    const other = demoUnits.find(({ familyId, id }) => familyId === family && id !== first)!
    const theirs = await paths.get(`/jobs/${await newJob(other.id)}/carried`)
    expect(theirs.from.sameUnit).toBe(false)
    expect(Object.keys(theirs.bench)).toEqual(['wiring'])
  })
  it('is offered to nobody of another family', async () => {
    const { id } = firstUnitOf('mains-relay')
    expect(await paths.get(`/jobs/${await newJob(id)}/carried`)).toBeNull()
  })
  it('the last word stands in the record too, and that the job was opened again', async () => {
    const { runs } = await paths.get(`/jobs/${jobId}`)
    const runId = runs[0].id
    const wake = async (): Promise<any[]> => paths.get(`/runs/${runId}/wake`)
    const before = (await wake()).length
    // What is due after the proof, and what was taken off, comes first.
    expect((await server.send('POST', `/jobs/${jobId}/close`, { name: 'A. Lund' })).status).toBe(409)
    expect(await wake()).toHaveLength(before)
    const families: any[] = await paths.get('/families')
    const own = families.find(({ id }) => id === family)
    for (const { id: item } of own.postUpdateTasks ?? [])
      await paths.send('POST', `/runs/${runId}/aftercare`, { item, outcome: 'done', by: 'A. Lund' })
    const due = await server.send('POST', `/jobs/${jobId}/close`, { name: 'A. Lund' })
    const tookDown = [
      ...own.isolation.neighbours.map(({ id }: any) => id),
      ...own.powerOrder.off.map(({ id }: any) => id),
      ...(own.power.supply?.loads ?? []).map(({ id }: any) => `load-${id}`),
      'adapter',
      'charger',
    ]
    expect(due.body.kind).toBe('not-taken-down')
    await paths.send('POST', `/jobs/${jobId}/close`, { name: 'A. Lund', note: 'Back on its buoy.', tookDown })
    expect((await wake()).at(-1).body).toMatchObject({
      type: 'job.closed',
      by: 'A. Lund',
      note: 'Back on its buoy.',
      cameTo: 'Proved and fit for use',
      back: expect.arrayContaining([expect.stringContaining('Caps on both jacks')]),
    })
    await paths.send('POST', `/jobs/${jobId}/reopen`, { name: 'A. Lund', reason: 'It drifts again.' })
    expect((await wake()).at(-1).body).toEqual({
      type: 'job.reopened',
      by: 'A. Lund',
      names: 'typed',
      why: 'It drifts again.',
    })
    expect((await paths.get(`/runs/${runId}`)).brokenAt).toBeNull()
  })
})
