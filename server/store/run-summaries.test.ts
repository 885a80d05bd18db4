import { sealEvent, type BodyOf, foldWake, type WakeBody } from '@bench-wake/core/run'
import { desc, eq } from 'drizzle-orm'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openDatabase, type Database } from '../db/open'
import { runs, runSummaries, wakeEvents } from '../db/schema'
import { seededFolder } from '../server.test-support'
import { readSettings } from '../settings'
import { appendAfterwards, getRun, listRuns, listRunsOf, markCutRuns, openRun, readWake } from './runs'
import { runHeads } from './run-summaries'

/* Lists fold no wake twice, and what they say is what the wake says: the cache is thrown away, altered and outgrown here. */

let opened: { db: Database; close: () => void }
let db: Database
let id: string
beforeAll(async () => {
  opened = await openDatabase(readSettings({ BENCH_WAKE_DATA: seededFolder() }).databaseUrl)
  db = opened.db
  const [run] = await db.select().from(runs).orderBy(desc(runs.addedAt)).limit(1)
  id = run!.id
})
afterAll(() => opened.close())

/** The state in a list as another program would find it: with nothing in memory. */
async function asIfNew(): Promise<unknown> {
  const fresh = { ...db, select: db.select.bind(db), insert: db.insert.bind(db) } as unknown as Database
  return (await listRuns(fresh)).find((run) => run.id === id)?.state
}
const truth = async () => foldWake(await readWake(db, id))
const row = async () => (await db.select().from(runSummaries).where(eq(runSummaries.runId, id)))[0]

it('says of a run in a list what its wake says, from the first time and from then on', async () => {
  await db.delete(runSummaries)
  expect(await asIfNew()).toEqual(await truth())
  expect(await row()).toBeDefined()
  expect(await asIfNew()).toEqual(await truth())
  expect((await listRuns(db)).find((run) => run.id === id)!.state).toEqual((await getRun(db, id)).state)
})

it('takes a cache that somebody wrote into for none', async () => {
  await asIfNew()
  const { state } = (await row())!
  await db.update(runSummaries).set({ state: state.replace('"outcome":"proved"', '"outcome":"failed"') })
  expect(await asIfNew()).toEqual(await truth())
  await db.update(runSummaries).set({ state: '{' })
  expect(await asIfNew()).toEqual(await truth())
})

it('follows what is said of a run afterwards', async () => {
  const before = await asIfNew()
  const body: WakeBody = { type: 'aftercare', item: 'x', does: 'Look.', outcome: 'done', by: 'M. Tarn' }
  await appendAfterwards(db, id, body)
  for (const state of [await asIfNew(), (await listRuns(db)).find((run) => run.id === id)!.state]) {
    expect(state).toEqual(await truth())
    expect(state).not.toEqual(before)
  }
})

it('keeps nothing of a run under way, and finds the one that a program before left open', async () => {
  const [first] = await readWake(db, id)
  const body = { ...(first!.body as BodyOf<'run.opened'>), runId: 'run-open' }
  await openRun(
    db,
    { id: 'run-open', jobId: 'j', unitId: 'u', program: null },
    sealEvent(body, first!.at, undefined),
  )
  expect((await listRunsOf(db, 'u'))[0]!.state.outcome).toBe('running')
  expect(await db.select().from(runSummaries).where(eq(runSummaries.runId, 'run-open'))).toEqual([])
  expect((await runHeads(db, undefined, true)).map((head) => head.id)).toEqual(['run-open'])
  expect(await markCutRuns(db)).toEqual(['run-open'])
  expect((await listRunsOf(db, 'u'))[0]!.state.outcome).toBe('cut')
  expect(await runHeads(db, undefined, true)).toEqual([])
})

it('lists the newest first, and no run without an event', async () => {
  await db.insert(runs).values({ id: 'run-empty', jobId: 'j', unitId: 'u', program: null, addedAt: 1 })
  const listed = await listRuns(db)
  const ids = listed.map((run) => run.id)
  expect(ids.slice(0, 2)).toEqual(['run-open', id])
  expect(ids).not.toContain('run-empty')
  const began = listed.map(({ state }) => state.startedAt)
  expect(began).toEqual([...began].sort((a, b) => b - a))
  await db.delete(wakeEvents).where(eq(wakeEvents.runId, 'run-open'))
  expect((await listRuns(db)).map((run) => run.id)).toEqual(ids.slice(1))
})
