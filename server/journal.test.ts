/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { until } from '@bench-wake/testing/until'
import { createClient } from '@libsql/client'
import { execFileSync } from 'node:child_process'
import { describe, expect, it } from 'vitest'
import { endChildren, ended, seededFolder, startProgram } from './server.test-support'
import { readSettings } from './settings'

endChildren()

type Program = Awaited<ReturnType<typeof startProgram>>

/** Most bytes of a file that the program may write from now on: a disk that takes no more (setrlimit(2), RLIMIT_FSIZE). */
const limitFiles = ({ child }: Program, bytes: number | 'unlimited') =>
  execFileSync('prlimit', [`--fsize=${bytes}:`, '--pid', String(child.pid)])

const start = (program: Program, more: object = {}) =>
  program.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07', speed: 60, ...more })

/** A run that is in the middle of its write. */
async function writing(program: Program): Promise<string> {
  const { id } = (await start(program)).body
  await program.powerUp(id)
  await program.stream(
    id,
    ({ body }) => body.type === 'progress' && body.unit === 'bytes' && body.done > 20_000,
  )
  return id
}

describe('the record cannot be written in the middle of a run', () => {
  it('the disk takes no more: the run ends as cut with the reason, and goes on once there is room', async () => {
    const program = await startProgram(seededFolder())
    const id = await writing(program)
    limitFiles(program, 4096)
    await program.stream(id, () => false)

    // Not "running", neither here nor in any list, and both say the same.
    const { state } = (await program.get(`/runs/${id}`)).body
    expect(state.outcome).toBe('cut')
    expect(state.cutWhy).toMatch(
      /^The record could not be written: .*disk.*\. The write went on to its last byte/,
    )
    expect((await program.get('/health')).body.running).toBe(0)
    expect((await program.get('/jobs/job-fog-07')).body.runs[0].state.outcome).toBe('cut')
    expect((await program.get('/logbook?q=skerrow')).body[0].outcome).toBe('cut')
    expect((await program.send('POST', `/runs/${id}/abandon`, {})).body.kind).toBe('run-over')

    // A start that cannot be recorded is no start, and says why.
    const refused = await start(program)
    expect(refused.status).toBe(507)
    expect(refused.body.remedy).toMatch(/disk/)
    expect((await program.get('/health')).body.running).toBe(0)

    // With room again it is said by itself, and the next start is the next leg of the same run.
    limitFiles(program, 'unlimited')
    await until(async () => {
      const { body } = await program.get(`/runs/${id}/wake`)
      return body.at(-1).body.type === 'cut' && (await onDisk(program.folder, id)) === body.length
    }, 'What was owed to the disk')
    expect((await program.get(`/runs/${id}`)).body.brokenAt).toBeNull()
    const again = await start(program, { speed: 0 })
    expect(again.body.id).toBe(id)
    expect((await program.follow(id)).outcome).toBe('proved')
    expect((await program.get(`/runs/${id}`)).body.state.leg).toBe(2)
    expect((await program.get(`/runs/${id}`)).body.brokenAt).toBeNull()
    program.child.kill('SIGTERM')
    expect(await ended(program.child)).toBe(0)
  })

  it('another program holds the database for seconds: the run waits for it and goes on to its proof', async () => {
    const folder = seededFolder()
    const program = await startProgram(folder)
    const id = await writing(program)
    const other = createClient({ url: readSettings({ BENCH_WAKE_DATA: folder }).databaseUrl, timeout: 5000 })
    const lock = await other.transaction('write')
    // A program that waited within the database would be silent until it gave up: all these are answered behind the lock.
    const until = Date.now() + 3000
    for (let answers = 0; answers < 30 || Date.now() < until; answers++) {
      expect((await program.get('/health')).status).toBe(200)
      await new Promise((done) => setTimeout(done, 50))
    }
    lock.close()
    other.close()
    const state = await program.follow(id)
    expect(state).toMatchObject({ outcome: 'proved', leg: 1 })
    expect((await program.get(`/runs/${id}`)).body.brokenAt).toBeNull()
  })
})

/** Events of a run that are on disk, read beside the program. */
async function onDisk(folder: string, id: string): Promise<number> {
  const client = createClient({ url: readSettings({ BENCH_WAKE_DATA: folder }).databaseUrl, timeout: 2000 })
  const { rows } = await client.execute({
    sql: 'select count(*) from wake_events where run_id = ?',
    args: [id],
  })
  client.close()
  return Number(rows[0]![0])
}

describe('one run a job, and one a unit', () => {
  it('two starts at once: one runs, the other is refused by name', async () => {
    const program = await startProgram(seededFolder())
    const answers = await Promise.all([start(program), start(program)])
    expect(answers.map(({ status }) => status).sort()).toEqual([201, 409])
    const refused = answers.find(({ status }) => status === 409)!.body
    expect(refused).toMatchObject({ kind: 'run-under-way', thing: 'job-fog-07' })
    const runs = (await program.get('/jobs/job-fog-07')).body.runs
    expect(runs).toHaveLength(1)
    const { body: wake } = await program.get(`/runs/${runs[0].id}/wake`)
    expect(wake.filter((event: any) => event.body.type === 'run.opened')).toHaveLength(1)
  })

  it('over another port neither the job nor another job of the unit starts', async () => {
    const program = await startProgram(seededFolder())
    const id = await writing(program)
    expect((await start(program, { port: 'serial:/dev/none' })).body).toMatchObject({
      kind: 'run-under-way',
      thing: 'job-fog-07',
      found: id,
    })
    const { imageId } = (await program.get('/jobs/job-fog-07')).body.job
    const form = { unitId: 'fog-07', imageId, reason: 'the same unit again', day: '2026-11-24' }
    const other = (await program.send('POST', '/jobs', form)).body.id
    expect((await start(program, { jobId: other })).body).toMatchObject({
      kind: 'run-under-way',
      thing: 'fog-07',
      found: id,
    })
  })

  it('is free again once a start was refused', async () => {
    const program = await startProgram(seededFolder())
    expect((await start(program, { port: 'serial:/dev/none' })).body.kind).toBe('not-found')
    expect((await start(program)).status).toBe(201)
  })
})
