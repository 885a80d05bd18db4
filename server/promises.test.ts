/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openDatabase } from './db/open'
import { demoServer, seededFolder } from './server.test-support'
import { appendAfterwards } from './store/runs'

/* What is promised around a run, over the public paths, on the side on which it refuses. */

const folder = seededFolder()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(folder)
})
afterAll(() => server.stop())
/** A run that came to its proof here, with its job. */
let proved: { jobId: string; id: string } | undefined

const port = (unitId: string) => `stand-in:${unitId}`
const day = new Date().toISOString().slice(0, 10)
async function jobOf(unitId: string, imageId: string | null, reason = 'A test.'): Promise<string> {
  return (await server.send('POST', '/jobs', { unitId, imageId, kind: 'fault', reason, day })).body.id
}
const imageOf = async (jobId: string): Promise<string> =>
  (await server.get(`/jobs/${jobId}`)).body.job.imageId

// PRACTICE C5, common practice: one program a port, one run a port.
describe('a port', () => {
  it('that a run holds takes no second run, no reading and no listening, and the refusal is kept', async () => {
    const jobId = await jobOf('fog-07', await imageOf('job-fog-07'))
    const { id } = (await server.send('POST', '/runs', { jobId, port: port('fog-07'), speed: 0 })).body
    await server.stream(id, ({ body }) => body.type === 'prompt.asked')
    const second = await server.send('POST', '/runs', { jobId: 'job-fog-02', port: port('fog-07'), speed: 0 })
    expect(second).toMatchObject({ status: 409, body: { kind: 'port-held', found: id } })
    expect(second.body.remedy).toMatch(/One run a port/)
    const read = await server.send('POST', '/units/fog-07/snapshots', { port: port('fog-07') })
    expect(read.body.kind).toBe('port-held')
    const settings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
    expect((await server.send('POST', '/ports/listen', { port: port('fog-07'), settings })).body.kind).toBe(
      'port-held',
    )
    const refusals = (await server.get('/logbook/refusals')).body as any[]
    expect(refusals.some(({ kind, thing }) => kind === 'port-held' && thing === port('fog-07'))).toBe(true)
    const state = await server.follow(id)
    expect(state.outcome).toBe('proved')
    proved = { jobId, id }
    // Free again.
    expect((await server.send('POST', '/units/fog-07/snapshots', { port: port('fog-07') })).status).toBe(201)
  })
  it('that is only listened to sends nothing, and takes no run meanwhile', async () => {
    const settings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
    expect(
      (await server.send('POST', '/ports/listen', { port: port('fog-02'), settings })).status,
    ).toBeLessThan(300)
    await new Promise((done) => setTimeout(done, 50))
    const trace = await (
      await fetch(`${server.base}/ports/trace?port=${encodeURIComponent(port('fog-02'))}`)
    ).text()
    const rows = trace
      .trim()
      .split('\n')
      .slice(1)
      .map((line) => JSON.parse(line))
    expect(rows.filter(({ direction }) => direction === 'out')).toEqual([])
    const run = await server.send('POST', '/runs', { jobId: 'job-fog-02', port: port('fog-02'), speed: 0 })
    expect(run.status).toBe(409)
    const end = await server.send('POST', '/ports/listen/end', { port: port('fog-02') })
    expect(end.status).toBeLessThan(300)
  })
})

describe('closing', () => {
  it('without a proof wants a word on why', async () => {
    const jobId = await jobOf('fog-04', null)
    const bare = await server.send('POST', `/jobs/${jobId}/close`, { name: 'T. Reader', note: '  ' })
    expect(bare).toMatchObject({ status: 400, body: { place: { at: 'note' } } })
    expect((await server.get(`/jobs/${jobId}`)).body.job.closedAt).toBeNull()
    const said = await server.send('POST', `/jobs/${jobId}/close`, {
      name: 'T. Reader',
      note: 'Stays as it is.',
      tookDown: ['panels-on'],
    })
    expect(said.body.job).toMatchObject({ closedBy: 'T. Reader', closingNote: 'Stays as it is.' })
    expect(
      (await server.send('POST', `/jobs/${jobId}/close`, { name: 'T. Reader', note: 'x' })).body.kind,
    ).toBe('job-closed')
  })
  it('of a proof with an open word wants one too, and names the line', async () => {
    const { jobId, id } = proved!
    const { state } = (await server.get(`/runs/${id}`)).body
    expect(state.outcome).toBe('proved')
    // The build time did not change: as the proof would have found it.
    const { db, close } = await openDatabase(server.databaseUrl)
    await appendAfterwards(db, id, {
      type: 'compared',
      step: state.steps.length - 1,
      rows: [],
      findings: [
        {
          rule: 'changed-lines',
          level: 'hold',
          says: 'Built should have changed and did not.',
          because: 'Before and now 2025.',
        },
      ],
    })
    close()
    const { family } = {
      family: (await server.get('/families')).body.find((each: any) => each.id === 'fog-signal'),
    }
    for (const { id: item } of family.postUpdateTasks)
      await server.send('POST', `/runs/${id}/aftercare`, { item, outcome: 'done', by: 'T. Reader' })
    const tookDown = (family.powerOrder?.off ?? []).map(({ id: each }: any) => each)
    const form = { name: 'T. Reader', note: '', tookDown }
    const held = await server.send('POST', `/jobs/${jobId}/close`, form)
    expect(held.body).toMatchObject({
      kind: 'proof-held',
      says: 'Built should have changed and did not',
      place: { at: 'note' },
    })
    const closed = await server.send('POST', `/jobs/${jobId}/close`, {
      ...form,
      note: 'The maker rebuilt it the same day.',
    })
    expect(closed.body.job.closedBy).toBe('T. Reader')
  })
})

describe('a page of another unit', () => {
  it('is refused, kept as refused, and counts for nothing', async () => {
    const before = (await server.get('/units/fog-04')).body
    const refused = await server.send('POST', '/units/fog-04/snapshots', { port: port('fog-11') })
    expect(refused.body.kind).toBe('wrong-unit')
    const after = (await server.get('/units/fog-04')).body
    expect(after.facts).toEqual(before.facts)
    expect(after.snapshots).toEqual(before.snapshots)
    expect(after.refused).toHaveLength(before.refused.length + 1)
    expect(after.refused[0].refused).toMatch(/^serial .*, not /)
  })
})

// PRACTICE E6: from running firmware by command, over the link and not by a clock.
describe('what an entry asks of the program', () => {
  it('is done over the link: the unit is in its bootloader afterwards, and not before', async () => {
    const listen = async () =>
      (await server.send('POST', '/jobs/job-fog-07/listen', { port: port('fog-07') })).body.answered
    expect(await listen()).toBe(false)
    const act = (form: object) =>
      server.send('POST', '/jobs/job-fog-07/entry-act', { port: port('fog-07'), ...form })
    expect((await act({ way: 'by-command', act: 'nothing' })).body.kind).toBe('not-found')
    expect((await act({ way: 'two-keys', act: 'send' })).body.kind).toBe('not-found')
    expect(await listen()).toBe(false)
    expect((await act({ way: 'by-command', act: 'send' })).status).toBe(200)
    expect(await listen()).toBe(true)
    // A unit in its bootloader has no version of its own: what is known of it stays, and the way on with it.
    const page = await server.send('POST', '/units/fog-07/snapshots', { port: port('fog-07') })
    expect(page.body.inBootloader).toBe(true)
    const unit = (await server.get('/units/fog-07')).body
    expect(unit.facts).toMatchObject({ inBootloader: true, versions: { main: expect.any(String) } })
    await server.send('POST', '/jobs/job-fog-07/hands', { port: port('fog-07'), did: 'off' })
  })
})
