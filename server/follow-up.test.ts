/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { firstUnitOf, rightBench } from '@bench-wake/demo'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, pathsOf, seededFolder } from './server.test-support'

/* PRACTICE A6, common practice: what was reported is asked at the end, and again when it had time to come back. */

let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

const family = 'mains-relay'
const reported = { says: 'The relay clicks at night.', often: 'twice a night', since: '2026-08-12' }
/** A proved job with a symptom, ready to be closed. */
async function provedJob(): Promise<{ id: string; form: object; runId: string }> {
  const paths = pathsOf(server)
  const right = await rightBench(paths, family, 'quay-relay-2.1.uf2')
  const { bench, job } = await paths.get(`/jobs/${right}`)
  const { id } = await paths.send('POST', '/jobs', {
    unitId: firstUnitOf(family).id,
    imageId: job.imageId,
    reason: 'It clicks.',
    symptoms: [reported],
    day: new Date().toISOString().slice(0, 10),
  })
  await paths.send('PUT', `/jobs/${id}/bench`, bench)
  const { gates } = await paths.get(`/jobs/${id}/ready?port=stand-in:${firstUnitOf(family).id}`)
  const releases = gates
    .flatMap(({ findings }: any) => findings)
    .filter(({ level }: any) => level === 'hold')
    .map(({ rule }: any) => ({ rule, name: 'A. Lund', reason: 'the owner agrees' }))
  const started = await paths.send('POST', '/runs', {
    jobId: id,
    port: `stand-in:${firstUnitOf(family).id}`,
    speed: 0,
    releases,
  })
  expect((await server.follow(started.id)).outcome).toBe('proved')
  const own = (await paths.get('/families')).find((each: any) => each.id === family)
  for (const { id: item } of own.postUpdateTasks ?? [])
    await paths.send('POST', `/runs/${started.id}/aftercare`, { item, outcome: 'done', by: 'A. Lund' })
  const tookDown = ['adapter', 'charger', ...own.powerOrder.off.map((each: any) => each.id)]
  return { id, form: { name: 'A. Lund', tookDown }, runId: started.id }
}

describe('a reported symptom', () => {
  let job: Awaited<ReturnType<typeof provedJob>>
  beforeAll(async () => {
    job = await provedJob()
  })
  const reopen = () =>
    server.send('POST', `/jobs/${job.id}/reopen`, { name: 'A. Lund', reason: 'Once more.' })
  it('that cannot be judged yet is asked again, and the answer is kept with the job', async () => {
    const { id, form, runId } = job
    const closed = await server.send('POST', `/jobs/${id}/close`, {
      ...form,
      symptoms: [{ says: reported.says, now: 'not-known' }],
      askAgain: '2026-12-10',
    })
    expect(closed.status, JSON.stringify(closed.body)).toBe(200)
    expect(closed.body.job.history.map(({ did }: any) => did)).toEqual(['closed', 'ask-again'])
    expect(closed.body.job.history[0].says).toContain('“The relay clicks at night”: cannot be said yet.')
    const wake = (await server.get(`/runs/${runId}/wake`)).body
    expect(wake.at(-1).body).toMatchObject({
      type: 'job.closed',
      symptoms: [{ says: reported.says, now: 'not-known' }],
    })
    // Until it is asked, Today has it; then it is one of the closed ones alone.
    const listed = async (path: string) =>
      (await server.get(path)).body.map((each: any) => each.job?.id ?? each.id)
    expect(await listed('/jobs')).toContain(id)
    expect(await listed('/jobs/closed')).toContain(id)
    const asked = await server.send('POST', `/jobs/${id}/asked`, {
      name: 'B. Sand',
      now: 'there',
      note: 'Once since then.',
    })
    expect(asked.body.job.history.at(-1)).toMatchObject({
      did: 'asked',
      by: 'B. Sand',
      says: 'It is still there. Once since then.',
    })
    // Once answered it is asked no more.
    expect(await listed('/jobs')).not.toContain(id)
    expect(await listed('/jobs/closed')).toContain(id)
    expect((await server.send('POST', `/jobs/${id}/asked`, { name: 'B. Sand', now: 'gone' })).body.kind).toBe(
      'nothing-asked',
    )
  })
  it('that is still there wants a word on what is done about it', async () => {
    await reopen()
    const { id, form } = job
    const closedNow = (await server.get('/jobs/closed')).body
    expect(closedNow.map((each: any) => each.id)).not.toContain(id)
    const there = { ...form, symptoms: [{ says: reported.says, now: 'there' }] }
    expect((await server.send('POST', `/jobs/${id}/close`, there)).body.place).toEqual({ at: 'note' })
    const closed = await server.send('POST', `/jobs/${id}/close`, {
      ...there,
      note: 'The feed is looked at.',
    })
    expect(closed.status).toBe(200)
    expect(closed.body.job.history.at(-1).says).toContain('still there')
  })
  it('of a day that does not exist, and of a word that nobody knows, is refused', async () => {
    await reopen()
    const { id } = job
    const send = async (more: object) =>
      (await server.send('POST', `/jobs/${id}/close`, { name: 'A. Lund', ...more })).status
    expect(await send({ askAgain: '2026-02-30' })).toBe(400)
    expect(await send({ symptoms: [{ says: 'x', now: 'perhaps' }] })).toBe(400)
    expect((await server.send('POST', `/jobs/${id}/asked`, { name: 'A. Lund', now: 'gone' })).body.kind).toBe(
      'nothing-asked',
    )
  })
})
