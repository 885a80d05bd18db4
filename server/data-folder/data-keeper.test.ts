/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { until } from '@bench-wake/testing/until'
import { createClient } from '@libsql/client'
import { spawnSync } from 'node:child_process'
import {
  chmodSync,
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readdirSync,
  renameSync,
  statSync,
  symlinkSync,
  writeFileSync,
  writeSync,
} from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { builtRestore, builtServer } from '../../scripts/server.mjs'
import {
  demoServer,
  endChildren,
  ended,
  scratchFolder,
  seededFolder,
  startProgram,
} from '../server.test-support'
import { readSettings } from '../settings'
import { listBackupFiles, makeBackup, prepareRestore, surplus, type BackupFile } from './backups'

endChildren()

const databaseOf = (folder: string) =>
  createClient({ url: readSettings({ BENCH_WAKE_DATA: folder }).databaseUrl })

/** Runs a command of the program to its end. */
function command(
  script: string,
  folder: string,
  words: string[] = [],
  environment: Record<string, string> = {},
) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [script, ...words], {
    env: { ...process.env, PORT: '0', BENCH_WAKE_DATA: folder, ...environment },
    encoding: 'utf8',
    timeout: 60_000,
  })
  return { status, stdout, stderr: stderr.replace(/^npm warn.*\n/gm, '').trim() }
}
/** One sentence or two to a person: no stack, no name of a class, no SQL. */
const isSentence = (text: string) =>
  text.split('\n').length === 1 &&
  /\.$/.test(text) &&
  !/\bat \S+:\d+|Error:|SQLITE.*SQL|PRAGMA|select /i.test(text)

describe('a row that cannot be read', () => {
  it('takes neither its list nor the start with it, and is named with its table and key', async () => {
    const folder = seededFolder()
    const client = databaseOf(folder)
    const damages: [table: string, sql: string][] = [
      ['jobs', "update jobs set symptoms = '{' where id = 'job-fog-07'"],
      ['snapshots', "update snapshots set lines = 'oops' where id = (select min(id) from snapshots)"],
      ['images', "update images set facts = '[' where id = (select min(id) from images)"],
      ['families', `update families set document = '{"id":"x"}' where id = (select min(id) from families)`],
      ['adapters', "update adapters set document = '' where id = (select min(id) from adapters)"],
    ]
    for (const [, sql] of damages) await client.execute(sql)
    client.close()
    const server = await demoServer(folder)
    try {
      const lists = ['/jobs', '/units', '/images', '/families', '/logbook', '/adapters', '/runs', '/ports']
      for (const path of lists)
        expect({ path, status: (await server.get(path)).status }).toEqual({ path, status: 200 })
      const { damage } = (await server.get('/data')).body
      expect(damage.map(({ table }: any) => table).sort()).toEqual(damages.map(([table]) => table).sort())
      expect((await server.get('/health')).body.damaged).toBe(damages.length)
      const job = damage.find(({ table }: any) => table === 'jobs')
      expect(job).toMatchObject({ key: 'job-fog-07', why: 'symptoms is not JSON' })
      // It can be taken away whole.
      expect((await server.get(`/data/damage/${job.id}`)).body.row).toMatchObject({
        id: 'job-fog-07',
        symptoms: '{',
      })
    } finally {
      await server.stop()
    }
  })

  it('is mended by hand and put back; what still cannot be read is not', async () => {
    const folder = seededFolder()
    const client = databaseOf(folder)
    const [before] = (await client.execute("select * from jobs where id = 'job-fog-07'")).rows
    await client.execute("update jobs set symptoms = '[' where id = 'job-fog-07'")
    client.close()
    const server = await demoServer(folder)
    try {
      expect((await server.get('/jobs/job-fog-07')).status).toBe(404)
      const [{ id }] = (await server.get('/data')).body.damage
      const refused = await server.send('POST', `/data/damage/${id}/put-back`, { mended: {} })
      expect(refused.body).toMatchObject({ kind: 'still-damaged', place: { at: 'symptoms' } })
      const back = await server.send('POST', `/data/damage/${id}/put-back`, {
        mended: { symptoms: before!['symptoms'] },
      })
      expect(back.body.damage).toEqual([])
      expect((await server.get('/jobs/job-fog-07')).body.job.symptoms).toEqual(
        JSON.parse(String(before!['symptoms'])),
      )
      expect((await server.get('/data/damage/x')).status).toBe(404)
    } finally {
      await server.stop()
    }
  })

  it('met in the middle of the work is set aside, and the list is answered without it', async () => {
    const folder = seededFolder()
    const server = await demoServer(folder)
    const client = databaseOf(folder)
    try {
      await client.execute("update jobs set symptoms = 'no' where id = 'job-fog-07'")
      const { status, body } = await server.get('/jobs')
      expect(status).toBe(200)
      expect(body.map(({ job }: any) => job.id)).not.toContain('job-fog-07')
      expect((await server.get('/health')).body.damaged).toBe(1)
    } finally {
      client.close()
      await server.stop()
    }
  })

  it.each([
    ['is no JSON', 'update wake_events set body = \'{"type"\' where run_id = ? and seq = 5'],
    [
      'is of a type nobody knows',
      'update wake_events set body = \'{"type":"party"}\', type = \'party\' where run_id = ? and seq = 5',
    ],
    [
      'is the last of its record',
      "update wake_events set body = '7' where run_id = ? and seq = (select max(seq) from wake_events where run_id = ?1)",
    ],
  ])('an event that %s stays in its place; the run says where its record broke', async (_, damage) => {
    const folder = seededFolder()
    const client = databaseOf(folder)
    const runId = String((await client.execute('select min(run_id) from wake_events')).rows[0]![0])
    await client.execute({ sql: damage, args: [runId] })
    const seq = Number(
      (
        await client.execute({
          sql: "select seq from wake_events where run_id = ? and (not json_valid(body) or type = 'party' or body = '7')",
          args: [runId],
        })
      ).rows[0]![0],
    )
    client.close()
    const server = await demoServer(folder)
    try {
      const run = (await server.get(`/runs/${runId}`)).body
      expect(run.brokenAt).toBe(seq)
      for (const path of ['/logbook', '/jobs', '/units', `/jobs/${run.jobId}`, `/runs/${runId}/wake`])
        expect({ path, status: (await server.get(path)).status }).toEqual({ path, status: 200 })
      expect((await server.get('/data')).body.damage[0]).toMatchObject({
        table: 'wake_events',
        key: `run ${runId}, event ${seq}`,
      })
    } finally {
      await server.stop()
    }
  })
})

describe('backups', () => {
  const day = 86_400_000
  it('are thinned by day: a year of daily copies leaves a week of days and a month of weeks', () => {
    let kept: BackupFile[] = []
    const now = 1000 * day
    for (let back = 365; back >= 0; back--) {
      const at = now - back * day
      kept = [{ name: String(back), bytes: 1, at }, ...kept]
      const gone = new Set(surplus(kept, at))
      kept = kept.filter((file) => !gone.has(file))
    }
    const ages = kept.map(({ name }) => Number(name))
    expect(ages.slice(0, 8)).toEqual([0, 1, 2, 3, 4, 5, 6, 7])
    const weeks = ages.slice(8)
    expect(weeks.length).toBeGreaterThanOrEqual(4)
    expect(weeks.length).toBeLessThanOrEqual(6)
    expect(weeks.at(-1)).toBeGreaterThanOrEqual(28)
  })
  it('of one day delete none of another, and one with damage replaces no whole one', () => {
    const at = 1000.5 * day
    const file = (name: string, age: number): BackupFile => ({ name, bytes: 1, at: at - age })
    const days = [1, 2, 3, 4, 5, 6].map((age) => file(`day ${age}`, age * day))
    const presses = Array.from({ length: 20 }, (_, press) => file(`press ${press}`, press * 1000))
    const damaged = file('day 1 with damage', day + 1)
    const update = file('before an update', 20 * day)
    const older = file('older of the same day', 2 * day + 1000)
    expect(surplus([...presses, ...days, damaged, update, older], at)).toEqual([older])
  })

  it('two of one second have two names', async () => {
    const folder = seededFolder()
    const path = join(folder, 'bench-wake.db')
    const made = await Promise.all([1, 2].map(() => makeBackup(path, join(folder, 'backups'), 0)))
    expect(new Set(made.map(({ name }) => name)).size).toBe(2)
    expect(await listBackupFiles(join(folder, 'backups'))).toHaveLength(2)
  })

  it('one is restored over the page’s own path: one at a time, and nothing is acknowledged that will be lost', async () => {
    const folder = seededFolder()
    const server = await demoServer(folder)
    try {
      expect((await server.get('/data')).body.backups).toEqual([])
      const made = await server.send('POST', '/data/backups', {})
      expect(made.status).toBe(201)
      const { name } = made.body
      const unit = { familyId: 'fog-signal', name: 'Added later', place: 'Bench', serial: 'FS3-90001' }
      expect((await server.send('POST', '/units', unit)).status).toBe(201)
      expect((await server.send('POST', '/data/restore', { name: '../../etc/passwd' })).status).toBe(404)
      const restores = await Promise.all([1, 2, 3].map(() => server.send('POST', '/data/restore', { name })))
      expect(restores.map(({ status }) => status).sort()).toEqual([202, 409, 409])
      const late = await server.send('POST', '/units', { ...unit, serial: 'FS3-90002' })
      expect(late).toMatchObject({ status: 409, body: { kind: 'restore-under-way' } })
      const restored = () =>
        server.get('/data').then(
          ({ body }) => body.restored?.says,
          () => undefined,
        )
      await until(async () => (await restored()) !== undefined, 'The data of the backup')
      expect(await restored()).toContain(name)
      const names = ((await server.get('/units')).body as any[]).map((each) => each.name)
      expect(names).not.toContain('Added later')
      const [old] = readdirSync(folder).filter((each) => each.startsWith('bench-wake.db before '))
      expect(existsSync(join(folder, old!, 'bench-wake.db'))).toBe(true)
    } finally {
      await server.stop()
    }
  })

  it('a start that cannot open restored data goes back to those from before', async () => {
    const folder = seededFolder()
    const path = join(folder, 'bench-wake.db')
    const [old, refused, candidate] = ['old', 'refused', 'candidate']
    mkdirSync(join(folder, old))
    renameSync(path, join(folder, old, 'bench-wake.db'))
    writeFileSync(path, 'torn on its way to the disk')
    const journal = { step: 'try', backup: 'a.db', candidate, old, refused, at: 1 }
    writeFileSync(`${path}.restore.json`, JSON.stringify(journal))
    const server = await demoServer(folder)
    try {
      expect((await server.get('/jobs/job-fog-07')).status).toBe(200)
      expect((await server.get('/data')).body.restored.says).toMatch(
        /a\.db" could not be opened.*before are in use/,
      )
      expect(existsSync(join(folder, refused, 'bench-wake.db'))).toBe(true)
    } finally {
      await server.stop()
    }
  })

  it('ends the sessions in a backup and keeps today’s password', async () => {
    const folder = seededFolder()
    const client = databaseOf(folder)
    const backups = join(folder, 'backups')
    await client.execute("insert into sessions values ('s', 'digest', 'Phone', 'A. Lund', 1, 1, 9e15)")
    await client.execute("insert into passwords (hash, at) values ('of then', 1)")
    const { name } = await makeBackup(join(folder, 'bench-wake.db'), backups, 0)
    client.close()
    const form = { databasePath: join(folder, 'bench-wake.db'), folder: backups, name, at: 0 }
    const made = await prepareRestore({
      ...form,
      despiteDamage: false,
      passwords: [{ hash: 'of now', at: 2 }],
    })
    const copy = createClient({ url: `file:${join(folder, made.candidate)}` })
    expect((await copy.execute('select count(*) from sessions')).rows[0]![0]).toBe(0)
    expect((await copy.execute('select hash from passwords')).rows.map((row) => row[0])).toEqual(['of now'])
    copy.close()
  })

  it.each<[string, (path: string) => unknown, string]>([
    ['an empty file', (path) => writeFileSync(path, ''), 'not-found'],
    ['a letter', (path) => writeFileSync(path, 'x'.repeat(5000)), 'not-a-backup'],
    [
      'a database of another program',
      (path) => alter(path, 'create table letters (id text)', 'drop table __drizzle_migrations'),
      'not-a-backup',
    ],
    ['with the mark of another program', (path) => alter(path, 'pragma application_id = 7'), 'not-a-backup'],
    ['without one of its tables', (path) => alter(path, 'drop table requests'), 'database-damaged'],
    [
      'of a newer version',
      (path) => alter(path, "insert into __drizzle_migrations (hash, created_at) values ('next', 9e15)"),
      'newer-form',
    ],
    [
      'with an event that was altered',
      (path) => alter(path, 'update wake_events set at = at + 1 where seq = 3'),
      'backup-damaged',
    ],
    [
      'with a file that was altered',
      (path) => alter(path, "update blobs set bytes = x'00' || bytes where length(bytes) > 0"),
      'backup-damaged',
    ],
  ])('one that is %s is refused before anything moves', async (_, spoil, kind) => {
    const folder = seededFolder()
    const path = join(folder, 'bench-wake.db')
    const backups = join(folder, 'backups')
    await makeBackup(path, backups, 0)
    const [{ name }] = (await listBackupFiles(backups)) as [BackupFile]
    await spoil(join(backups, name))
    const form = { databasePath: path, folder: backups, name, at: 0 }
    const refused = expect(prepareRestore({ ...form, despiteDamage: false })).rejects
    await refused.toMatchObject({
      facts: { kind: expect.stringMatching(kind === 'not-found' ? /not-(found|a-backup)/ : kind) },
    })
    expect(readdirSync(folder).filter((each) => each.includes('candidate'))).toEqual([])
    // What is whole in a backup is not lost with what is damaged in it.
    if (kind === 'backup-damaged') await prepareRestore({ ...form, despiteDamage: true })
  })
  const alter = async (path: string, ...statements: string[]) => {
    const client = createClient({ url: `file:${path}` })
    for (const statement of statements) await client.execute(statement)
    client.close()
  }

  it('none is restored while a unit is written, nor one that is damaged', async () => {
    const folder = seededFolder()
    const server = await demoServer(folder)
    try {
      const { name } = (await server.send('POST', '/data/backups', {})).body
      const path = join(folder, 'backups', name)
      const file = openSync(path, 'r+')
      writeSync(file, Buffer.alloc(8192, 0x5a), 0, 8192, 4096)
      closeSync(file)
      expect((await server.send('POST', '/data/restore', { name })).body.kind).toBe('database-damaged')
      const run = { jobId: 'job-fog-07', port: 'stand-in:fog-07', speed: 0 }
      await server.send('POST', '/runs', run)
      expect((await server.send('POST', '/data/restore', { name })).body.kind).toBe('run-under-way')
    } finally {
      await server.stop()
    }
  })

  /** A folder with one backup in it, whose program is left running. */
  const withBackup = async () => {
    const folder = seededFolder()
    const program = await startProgram(folder)
    const { name } = (await program.send('POST', '/data/backups', {})).body
    return { folder, program, name: name as string }
  }
  it('the command does nothing under a program that runs; after it, it lists them', async () => {
    const { folder, program, name } = await withBackup()
    const refused = command(builtRestore, folder, [name])
    expect(refused.status).toBe(1)
    expect(refused.stderr).toMatch(/another Bench Wake works with this data/i)
    program.child.kill('SIGTERM')
    await ended(program.child)
    expect(command(builtRestore, folder).stdout).toContain(name)
    expect(command(builtRestore, folder, ['none.db']).status).toBe(1)
  })
  it('the command brings one back over a database that is spoilt', async () => {
    const { folder, program, name } = await withBackup()
    program.child.kill('SIGTERM')
    await ended(program.child)
    // The database itself is spoilt: the start says so, and the backup brings the work back.
    const path = join(folder, 'bench-wake.db')
    const file = openSync(path, 'r+')
    writeSync(file, Buffer.alloc(statSync(path).size - 8192, 0x5a), 0, undefined, 4096)
    closeSync(file)
    const spoilt = command(builtServer, folder)
    expect(spoilt.status).toBe(1)
    expect(spoilt.stderr).toMatch(/damaged.*npm run restore/)
    expect(isSentence(spoilt.stderr)).toBe(true)
    expect(command(builtRestore, folder, [name])).toMatchObject({ status: 0 })
    const again = await startProgram(folder)
    expect((await again.get('/jobs/job-fog-07')).status).toBe(200)
  })
})

it.skipIf(process.platform === 'win32')(
  'database, log, lock and backups are closed to other accounts, whatever they were before',
  async () => {
    const folder = seededFolder()
    chmodSync(folder, 0o755)
    chmodSync(join(folder, 'bench-wake.db'), 0o644)
    const program = await startProgram(folder)
    await program.send('POST', '/data/backups', {})
    const modeOf = (name: string) => `${name} ${(statSync(join(folder, name)).mode & 0o777).toString(8)}`
    const names = ['bench-wake.db', 'bench-wake.db-wal', 'bench-wake.db-shm', 'bench-wake.db.lock']
    const [made] = await listBackupFiles(join(folder, 'backups'))
    expect([...names, join('backups', made!.name)].map(modeOf)).toEqual(
      [...names, join('backups', made!.name)].map((name) => `${name} 600`),
    )
    expect(['.', 'backups', 'incoming'].map(modeOf)).toEqual(['. 700', 'backups 700', 'incoming 700'])
  },
)

describe('a start that cannot be', () => {
  it('in a folder that is a file', () => {
    const folder = join(scratchFolder(), 'file')
    writeFileSync(folder, 'x')
    const { status, stderr } = command(builtServer, folder)
    expect(status).toBe(1)
    expect(stderr).toContain(folder)
    expect(isSentence(stderr)).toBe(true)
  })

  it('on a port that is taken', async () => {
    const other = createServer()
    const port = await new Promise<number>((done) =>
      other.listen(0, '127.0.0.1', () => done((other.address() as { port: number }).port)),
    )
    const { status, stderr } = command(builtServer, scratchFolder(), [], { PORT: String(port) })
    other.close()
    expect(status).toBe(1)
    expect(stderr).toBe(
      `Port ${port} is taken. Bench Wake may be running already; else set PORT to another number.`,
    )
  })

  it('with a file that is no database', () => {
    const folder = scratchFolder()
    writeFileSync(join(folder, 'bench-wake.db'), 'this is a letter, and no database at all. '.repeat(200))
    const { status, stderr } = command(builtServer, folder)
    expect(status).toBe(1)
    expect(stderr).toMatch(/damaged.*npm run restore/)
    expect(isSentence(stderr)).toBe(true)
  })

  it('through a link to the folder of a program that runs', async () => {
    const folder = seededFolder()
    await startProgram(folder)
    const link = join(scratchFolder(), 'link')
    symlinkSync(folder, link)
    const { status, stderr } = command(builtServer, link, [], { TMPDIR: scratchFolder() })
    expect(status).toBe(1)
    expect(stderr).toMatch(/another Bench Wake works with this data/i)
    // The same database by its own address, out of another folder.
    const byUrl = command(builtServer, scratchFolder(), [], {
      BENCH_WAKE_DB_URL: readSettings({ BENCH_WAKE_DATA: link }).databaseUrl,
    })
    expect(byUrl).toMatchObject({ status: 1, stderr: expect.stringMatching(/another Bench Wake/i) })
  })

  it('in a folder that is read-only', () => {
    // It is there, and not even the system's own account makes a file in it.
    const { status, stderr } = command(builtServer, '/sys/kernel')
    expect(status).toBe(1)
    expect(stderr).toMatch(
      /^\/sys\/kernel: the data folder is read-only.*BENCH_WAKE_DATA to another folder\.$/,
    )
  })

  it('in a folder that cannot be made', () => {
    // The kernel's own tree takes no folders, not even from the system's own account.
    const { status, stderr } = command(builtServer, '/sys/kernel/bench-wake')
    expect(status).toBe(1)
    expect(isSentence(stderr)).toBe(true)
    expect(stderr).toMatch(/BENCH_WAKE_DATA/)
  })
})

it('two programs on one server’s database call only their own runs cut', async () => {
  const folder = seededFolder()
  const { openDatabase } = await import('../db/open')
  const { markCutRuns } = await import('../store/runs')
  const { db, close } = await openDatabase(readSettings({ BENCH_WAKE_DATA: folder }).databaseUrl)
  const runId = String(
    (await db.$client.execute("select run_id from wake_events where type = 'run.closed' limit 1"))
      .rows[0]![0],
  )
  await db.$client.execute({
    sql: "delete from wake_events where run_id = ? and seq >= (select min(seq) from wake_events where run_id = ?1 and type = 'run.closed')",
    args: [runId],
  })
  await db.$client.execute({ sql: "update runs set program = 'theirs' where id = ?", args: [runId] })
  expect(await markCutRuns(db, 'ours')).toEqual([])
  expect(await markCutRuns(db, 'theirs')).toEqual([runId])
  close()
})

it('a backup that goes while the list is made is left out of it', async () => {
  const folder = scratchFolder()
  // A name that leads nowhere is what is left of it between the two looks.
  symlinkSync(join(folder, 'gone'), join(folder, 'cleared away.db'))
  writeFileSync(join(folder, 'there.db'), 'x')
  expect((await listBackupFiles(folder)).map(({ name }) => name)).toEqual(['there.db'])
})
