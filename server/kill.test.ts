import { eq } from 'drizzle-orm'
import { describe, expect, it } from 'vitest'
import { openDatabase } from './db/open'
import { wakeEvents } from './db/schema'
import { endChildren, ended, seededFolder, startProgram } from './server.test-support'
import { readSettings } from './settings'

endChildren()

describe('the program ends in the middle of a write', () => {
  const folder = seededFolder()
  let killed: { id: string; program: Awaited<ReturnType<typeof startProgram>> } | undefined

  it('killed outright: the run is shown as cut at its byte, and its chain holds', async () => {
    const first = await startProgram(folder)
    const { id } = (
      await first.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07', speed: 60 })
    ).body
    await first.powerUp(id)
    const { events } = await first.stream(
      id,
      ({ body }) => body.type === 'progress' && body.unit === 'bytes' && body.done > 30_000,
    )
    const seen = events[events.length - 1]!.data.body.done as number
    first.child.kill('SIGKILL')
    await ended(first.child)

    const second = await startProgram(folder)
    const run = (await second.get(`/runs/${id}`)).body
    expect(run.state.outcome).toBe('cut')
    expect(run.brokenAt).toBeNull()
    // What was seen was on disk before; a block more may have been acknowledged before the end.
    expect(run.state.acknowledged).toBeGreaterThanOrEqual(seen)
    expect(run.state.acknowledged).toBeLessThan(0x40000)
    const row = (await second.get('/logbook?q=skerrow')).body[0]
    expect(row.trouble).toMatch(/^Cut in write at byte \d+\s\d{3} of 262\s144\.$/)

    killed = { id, program: second }
  })

  it('killed outright: the job goes on to the proof, once the record is whole', async () => {
    const { id, program: second } = killed!
    // The link hears the bootloader by itself, without anybody saying so.
    const heard = await second.send('POST', '/jobs/job-fog-07/listen', { port: 'stand-in:fog-07' })
    expect(heard.body).toEqual({ answered: true })

    // A record that was altered on disk meanwhile takes no further leg: refused, and said.
    const { db, close } = await openDatabase(readSettings({ BENCH_WAKE_DATA: folder }).databaseUrl)
    const [event] = await db
      .select()
      .from(wakeEvents)
      .where(eq(wakeEvents.runId, id))
      .orderBy(wakeEvents.seq)
      .limit(1)
      .offset(9)
    const at = (when: number) =>
      db.update(wakeEvents).set({ at: when }).where(eq(wakeEvents.hash, event!.hash))
    await at(event!.at + 1)
    const refused = await second.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07' })
    expect(refused).toMatchObject({ status: 409, body: { kind: 'wake-altered', place: { at: 'event 10' } } })
    await at(event!.at)
    close()

    const again = (
      await second.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07', speed: 0 })
    ).body
    await second.powerUp(again.id)
    expect(again.id).toBe(id)
    await second.stream(again.id, ({ body }) => body.type === 'prompt.asked' && body.prompt === 'power-cycle')
    await second.send('POST', `/runs/${again.id}/answers`, { prompt: 'power-cycle', answer: 'done' })
    await second.stream(again.id, () => false)
    const proved = (await second.get(`/runs/${again.id}`)).body.state
    expect(proved.outcome).toBe('proved')
    expect(proved.leg).toBe(2)
    expect((await second.get(`/runs/${id}`)).body.brokenAt).toBeNull()
    expect(proved.notes[0].says).toMatch(/bootloader already/)
    second.child.kill('SIGTERM')
    expect(await ended(second.child)).toBe(0)
  })

  it('asked to end: it writes to the end first, and stops where it waits for a person', async () => {
    const program = await startProgram(folder)
    const { imageId } = (await program.get('/jobs/job-fog-07')).body.job
    const job = { unitId: 'fog-07', imageId, reason: 'written again', day: '2026-11-24' }
    const jobId = (await program.send('POST', '/jobs', job)).body.id
    const { id } = (
      await program.send('POST', '/runs', {
        jobId,
        port: 'stand-in:fog-07',
        speed: 60,
        releases: [{ rule: 'version-direction', name: 'T. Reader', reason: 'test of the ending' }],
      })
    ).body
    await program.powerUp(id)
    await program.stream(id, ({ body }) => body.type === 'progress' && body.unit === 'bytes')
    program.child.kill('SIGTERM')
    expect(await ended(program.child)).toBe(0)

    const after = await startProgram(folder)
    const { state } = (await after.get(`/runs/${id}`)).body
    expect(state.acknowledged).toBe(0x40000)
    expect(state.verified.outcome).toBe('equal-checksum')
    expect(state.outcome).toBe('cut')
    after.child.kill('SIGTERM')
    await ended(after.child)
  })
})
