/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { until } from '@bench-wake/testing/until'
import { createClient, type Client, type InValue } from '@libsql/client'
import { sealEvent, type WakeEvent } from '@bench-wake/core/run'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import * as schema from '../db/schema'
import { demoServer, seededFolder } from '../server.test-support'
import { getTableConfig, type SQLiteTable } from 'drizzle-orm/sqlite-core'
import { is, Table } from 'drizzle-orm'

/* Bytes that were altered on the disk: named, and nothing else stops. Changed here by SQL, as a failing disk or another tool would. */

type Damage = (client: Client, runId: string) => Promise<unknown>
const sql =
  (statement: string): Damage =>
  (client, runId) =>
    client.execute({ sql: statement, args: statement.includes('?') ? [runId] : [] })

/** The demo's data with damage done to a proved run, on a running server. */
async function damaged(
  damage: Damage,
  look: (server: Awaited<ReturnType<typeof demoServer>>, runId: string, unitId: string) => Promise<void>,
) {
  const folder = seededFolder()
  const client = createClient({ url: `file:${join(folder, 'bench-wake.db')}` })
  const { rows } = await client.execute(
    "select e.run_id, r.unit_id from wake_events e join runs r on r.id = e.run_id where type = 'run.closed' and json_extract(body, '$.outcome') = 'proved' order by e.run_id limit 1",
  )
  const [runId, unitId] = [String(rows[0]![0]), String(rows[0]![1])]
  await damage(client, runId)
  client.close()
  const server = await demoServer(folder)
  try {
    await look(server, runId, unitId)
  } finally {
    await server.stop()
  }
}

/** Rewrites an event with its own seal made again, as somebody would who knows how it is made. */
const resealed: Damage = async (client, runId) => {
  const { rows } = await client.execute({
    sql: 'select * from wake_events where run_id = ? order by seq',
    args: [runId],
  })
  const before = rows[2] as unknown as WakeEvent
  const own = rows[3]! as unknown as { seq: number; at: number; body: string }
  const event = sealEvent(JSON.parse(own.body), own.at + 1, before)
  await client.execute({
    sql: 'update wake_events set at = ?, hash = ? where run_id = ? and seq = 4',
    args: [event.at, event.hash, runId] as InValue[],
  })
}

describe('a damaged record is never shown as proved, in no list', () => {
  it.each<[string, Damage]>([
    ['an event altered', sql('update wake_events set at = at + 1 where run_id = ? and seq = 3')],
    ['an event removed', sql('delete from wake_events where run_id = ? and seq = 3')],
    [
      'two events in each other’s place',
      sql(
        'update wake_events set seq = case seq when 3 then -4 when 4 then -3 end where run_id = ? and seq in (3, 4)',
      ),
    ],
    ['an event sealed again', resealed],
    [
      'a member added to a body',
      sql(`update wake_events set body = json_set(body, '$.extra', 1) where run_id = ? and seq = 3`),
    ],
    [
      'a space added to a body',
      sql("update wake_events set body = body || ' ' where run_id = ? and seq = 3"),
    ],
    ['another type', sql("update wake_events set type = 'note' where run_id = ? and seq = 3")],
    [
      'a byte that is not UTF-8',
      sql(
        "update wake_events set body = cast(substr(cast(body as blob), 1, 20) || x'ff' || substr(cast(body as blob), 22) as text) where run_id = ? and seq = 3",
      ),
    ],
    [
      'a digest that is not UTF-8',
      sql("update wake_events set hash = cast(x'ff41' as text) where run_id = ? and seq = 3"),
    ],
    [
      'the record of another run',
      async (client, runId) => {
        await client.execute({ sql: 'delete from wake_events where run_id = ?', args: [runId] })
        await client.execute({
          sql: 'update wake_events set run_id = ? where run_id = (select run_id from wake_events where run_id <> ?1 limit 1)',
          args: [runId],
        })
      },
    ],
  ])('%s', async (_, damage) => {
    await damaged(damage, async (server, runId, unitId) => {
      const row = ((await server.get('/logbook')).body as any[]).find((each) => each.runId === runId)
      expect(row.outcome).toBe('damaged')
      const { body: run } = await server.get(`/runs/${runId}`)
      expect(run).toMatchObject({ state: { outcome: 'damaged' }, brokenAt: expect.any(Number) })
      const { runs: ofUnit } = (await server.get(`/units/${unitId}`)).body
      expect(ofUnit.find((each: any) => each.runId === runId).outcome).toBe('damaged')
      const count = async () => (await server.get('/health')).body.damaged as number
      await until(async () => (await count()) > 0, 'The damage in health')
      expect((await server.get('/data')).body.damage[0]).toMatchObject({
        table: 'wake_events',
        key: expect.stringContaining(runId),
      })
    })
  })
})

it('a damaged image stops its own job and no list, and is named; a backup says so in its name', async () => {
  await damaged(
    sql(
      "update blobs set bytes = zeroblob(length(bytes)) where sha256 = (select f.sha256 from jobs j join image_files f on f.image_id = j.image_id where j.id = 'job-fog-07')",
    ),
    async (server) => {
      const list = (await server.get('/jobs')).body as any[]
      expect(list.length).toBeGreaterThan(4)
      const own = list.find(({ job }) => job.id === 'job-fog-07')
      expect(own.headline).toMatchObject({ verdict: 'stop', says: expect.stringContaining('are damaged') })
      expect((await server.get(`/kit/${own.job.day}`)).status).toBe(200)
      const start = await server.send('POST', '/runs', {
        jobId: 'job-fog-07',
        port: 'stand-in:fog-07',
        speed: 0,
      })
      expect(start).toMatchObject({ status: 409, body: { kind: 'gate-not-go' } })
      await until(async () => (await server.get('/health')).body.damaged === 1, 'The damage in health')
      expect((await server.get('/data')).body.damage[0]).toMatchObject({
        table: 'blobs',
        key: expect.stringMatching(/^image /),
      })
      const shelf = (await server.get('/images')).body as any[]
      expect(
        shelf.filter(({ findings }) => findings.some(({ rule }: any) => rule === 'image-intact')),
      ).toHaveLength(1)
      expect((await server.send('POST', '/data/backups', {})).body.name).toContain('with damage')
    },
  )
})

/** Every column of every table that the program reads row by row. */
const columns = Object.values(schema).flatMap((table) => {
  if (!is(table, Table)) return []
  const { name, columns: all } = getTableConfig(table as SQLiteTable)
  return all.map(
    (column) => [name, column.name.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`)] as const,
  )
})

it('a byte that is not UTF-8 in any column ends no start, and every list keeps its other rows', async () => {
  const folder = seededFolder()
  const client = createClient({ url: `file:${join(folder, 'bench-wake.db')}` })
  const hurt: string[] = []
  for (const [table, column] of columns) {
    // A row of its own for each column: the key of a row that is hurt twice would not be found.
    const { rowsAffected } = await client
      .execute(
        `update "${table}" set "${column}" = cast(x'ff00fe' as text) where rowid = (select rowid from "${table}"
          where typeof("${column}") <> 'null' order by rowid limit 1 offset ${hurt.filter((each) => each.startsWith(`${table}.`)).length})`,
      )
      // What a constraint keeps out cannot be there.
      .catch(() => ({ rowsAffected: 0 }))
    if (rowsAffected > 0) hurt.push(`${table}.${column}`)
  }
  client.close()
  expect(hurt.length).toBeGreaterThan(60)
  const server = await demoServer(folder)
  try {
    for (const path of [
      '/jobs',
      '/jobs/closed',
      '/units',
      '/images',
      '/families',
      '/logbook',
      '/adapters',
      '/runs',
      '/ports',
      '/cases',
      '/requests',
      '/data',
      '/drills',
      '/definitions',
    ])
      expect({ path, status: (await server.get(path)).status }).toEqual({ path, status: 200 })
    const set = new Set(((await server.get('/data')).body.damage as any[]).map(({ table }) => table))
    expect(set.size).toBeGreaterThan(10)
  } finally {
    await server.stop()
  }
})

it('a log removed under the running program: noticed within a second, nothing acknowledged after it, nothing lost', async () => {
  const folder = seededFolder()
  const server = await demoServer(folder)
  const unit = { familyId: 'fog-signal', name: 'Kept', place: 'Bench', serial: 'FS3-90001' }
  expect((await server.send('POST', '/units', unit)).status).toBe(201)
  rmSync(join(folder, 'bench-wake.db-wal'))
  const from = performance.now()
  await until(async () => (await server.get('/health')).status === 503, 'The loss')
  // A busy machine is given twice the time.
  expect(performance.now() - from).toBeLessThan(2000)
  const late = await server.send('POST', '/units', { ...unit, serial: 'FS3-90002' })
  expect(late).toMatchObject({ status: 503, body: { kind: 'database-gone' } })
  await server.stop()
  const again = await demoServer(folder)
  const serials = ((await again.get('/units')).body as any[]).map(({ serial }) => serial)
  await again.stop()
  expect(serials).toContain('FS3-90001')
  expect(serials).not.toContain('FS3-90002')
})
