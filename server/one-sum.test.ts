/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { afterAll, beforeAll, expect, it } from 'vitest'
import { demoServer, seededFolder } from './server.test-support'

/* One sum of time: a list, a job and its printed plan say the same of a way of several writes, hands included. */

let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

const sum = (list: number[]) => list.reduce((total, each) => total + each, 0)

it('is the same in the list, the job and the plan, and the sum of its writes', async () => {
  const { body: jobs } = await server.get('/jobs')
  const several = jobs.filter(({ left }: any) => left.length > 1)
  // The davit's six joints at least go together.
  expect(Math.max(...several.map(({ left }: any) => left.length))).toBeGreaterThanOrEqual(6)
  for (const listed of jobs.filter(({ plan }: any) => plan.length > 0)) {
    const { body: job } = await server.get(`/jobs/${listed.job.id}`)
    const { body: plan } = await server.get(`/jobs/${listed.job.id}/plan`)
    expect(job.whole, listed.job.id).toEqual(listed.whole)
    expect(plan.time, listed.job.id).toEqual(job.whole)
    expect(plan.writes.map(({ time }: any) => time.totalMs)).toEqual(
      job.stays.map(({ totalMs }: any) => totalMs),
    )
    expect(sum(job.stays.map(({ totalMs }: any) => totalMs))).toBeCloseTo(job.whole.totalMs, 3)
    expect(job.stays.flatMap(({ hops }: any) => hops)).toEqual(job.left)
    // Worked out here once more, from the steps themselves: the machine's part and the person's.
    const steps = plan.writes.flatMap((write: any) => write.steps)
    expect(sum(steps.map(({ likelyMs }: any) => likelyMs))).toBeCloseTo(job.whole.totalMs, 3)
    expect(sum(steps.map(({ personMs }: any) => personMs))).toBe(job.whole.personMs)
    if (job.stays.length > 1) {
      expect(job.whole.totalMs).toBeGreaterThan(job.time.totalMs)
      expect(job.whole.personMs).toBeGreaterThan(job.time.personMs)
    } else expect(job.whole).toEqual(job.time)
  }
})
