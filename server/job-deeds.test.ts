import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoServer, endChildren, seededFolder } from './server.test-support'

endChildren()
let server: Awaited<ReturnType<typeof demoServer>>
beforeAll(async () => {
  server = await demoServer(seededFolder())
})
afterAll(() => server.stop())

const job = async (id: string) => (await server.get(`/jobs/${id}`)).body
const ready = async (id: string) =>
  (await server.get(`/jobs/${id}/ready?port=${encodeURIComponent('stand-in:launch-2')}`)).body.gates.flatMap(
    (gate: { findings: { rule: string; level: string; says: string }[] }) => gate.findings,
  )

describe('a job withdrawn, opened again, moved', () => {
  it('is withdrawn with a word, and by no other way', async () => {
    const close = (note: string) => server.send('POST', '/jobs/job-tide-2/close', { name: 'M. Tarn', note })
    expect(await close('')).toMatchObject({ status: 400, body: { place: { at: 'note' } } })
    const { status, body } = await close('The unit was sold.')
    expect(status).toBe(200)
    expect(body).toMatchObject({ cameTo: 'not-done', headline: { verdict: 'note' } })
    expect(body.job.history).toEqual([
      { did: 'withdrawn', by: 'M. Tarn', names: 'typed', at: expect.any(Number), says: 'The unit was sold.' },
    ])
  })
  it('is opened again by name and reason; why it was closed is kept', async () => {
    const again = () =>
      server.send('POST', '/jobs/job-tide-2/reopen', { name: 'I. Voss', reason: 'The sale fell through.' })
    const { status, body } = await again()
    expect(status).toBe(200)
    expect(body.job).toMatchObject({ closedAt: null, closedBy: null })
    expect(body.job.history.map(({ did }: { did: string }) => did)).toEqual(['withdrawn', 'reopened'])
    expect(await again()).toMatchObject({ status: 409, body: { kind: 'job-open' } })
  })
  it('is moved to another day, and the day it was moved to is kept; a closed one is not', async () => {
    const move = (to: string) => server.send('PATCH', '/jobs/job-tide-2', { day: { to, by: 'M. Tarn' } })
    expect((await move('2027-03-01')).body.job).toMatchObject({
      day: '2027-03-01',
      history: [{}, {}, { did: 'moved', says: '2027-03-01' }],
    })
    expect((await move('2027-03-01')).body.job.history).toHaveLength(3)
    expect((await move('2027-02-30')).status).toBe(400)
    await server.send('POST', '/jobs/job-tide-2/close', { name: 'M. Tarn', note: 'Not this year.' })
    expect(await move('2027-04-01')).toMatchObject({ status: 409, body: { kind: 'job-closed' } })
  })
})

describe('a hold released for a job', () => {
  const id = 'job-launch-2'
  it('is kept with what it said, over reloads; taken back it holds again', async () => {
    const held = (await ready(id)).filter(({ level }: { level: string }) => level === 'hold')
    expect(held.length).toBeGreaterThan(0)
    const [{ rule, says }] = held
    const given = { rule, says, name: 'M. Tarn', reason: 'The owner agreed.' }
    const { status, body } = await server.send('POST', `/jobs/${id}/releases`, given)
    expect(status).toBe(201)
    expect(body.job.releases).toEqual([{ ...given, at: expect.any(Number) }])
    expect((await job(id)).job.releases).toHaveLength(1)
    // The same hold once more: one person answers for it.
    await server.send('POST', `/jobs/${id}/releases`, { ...given, name: 'I. Voss' })
    expect((await job(id)).job.releases.map(({ name }: { name: string }) => name)).toEqual(['I. Voss'])
    await server.send('DELETE', `/jobs/${id}/releases/${rule}`, undefined)
    expect((await job(id)).job.releases).toEqual([])
    expect((await server.send('DELETE', `/jobs/${id}/releases/${rule}`, undefined)).status).toBe(404)
  })
})

describe('a run of a job whose holds were released', () => {
  const id = 'job-fog-07'
  const port = 'stand-in:fog-07'
  it('starts by the releases that the job keeps, and not by one whose facts have changed', async () => {
    // The version of the job's image is put on the shelf's older one: a step down is held by name.
    const gates = async () =>
      (await server.get(`/jobs/${id}/ready?port=${encodeURIComponent(port)}`)).body.gates
    const findings = (await gates()).flatMap((gate: { findings: object[] }) => gate.findings)
    const held = findings.filter(({ level }: { level: string }) => level === 'hold')
    for (const { rule } of held)
      await server.send('POST', `/jobs/${id}/releases`, {
        rule,
        says: 'Something else.',
        name: 'M. Tarn',
        reason: 'agreed',
      })
    if (held.length > 0)
      expect((await server.send('POST', '/runs', { jobId: id, port, speed: 0 })).status).toBe(409)
    for (const { rule, says } of held)
      await server.send('POST', `/jobs/${id}/releases`, { rule, says, name: 'M. Tarn', reason: 'agreed' })
    const started = await server.send('POST', '/runs', { jobId: id, port, speed: 0 })
    expect(started.status).toBe(201)
    // Stopped at its first question, nothing is written, and the job says so.
    const state = await server.follow(started.body.id, () => 'stop')
    expect(state).toMatchObject({ outcome: 'abandoned', problem: null })
    expect(state.facts.releases.map(({ rule }: { rule: string }) => rule).sort()).toEqual(
      held.map(({ rule }: { rule: string }) => rule).sort(),
    )
    expect(await job(id)).toMatchObject({ cameTo: 'not-done' })
    // The next leg needs no word again.
    const next = await server.send('POST', '/runs', { jobId: id, port, speed: 0 })
    expect([next.status, next.body.id]).toEqual([201, started.body.id])
    expect((await server.follow(next.body.id)).outcome).toBe('proved')
  })
})
