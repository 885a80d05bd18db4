import { createClient } from '@libsql/client'
import { sql } from 'drizzle-orm'
import { pathToFileURL } from 'node:url'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { problemDocument } from '../problem'
import { scratchFolder } from '../server.test-support'
import { connectDatabase } from './open'
import { databaseTrouble } from './trouble'

const folder = scratchFolder()
const urlOf = (name: string) => pathToFileURL(join(folder, name)).href

it('every connection to the database keeps each commit on disk and waits for a lock', async () => {
  const { db, close } = await connectDatabase(urlOf('settings.db'))
  const client = db.$client
  // Each open transaction has a connection of its own.
  const held = [
    await client.transaction('read'),
    await client.transaction('read'),
    await client.transaction('read'),
  ]
  for (const each of held) {
    // sqlite.org/pragma.html: 2 is FULL, which in WAL mode syncs at each commit.
    expect((await each.execute('PRAGMA synchronous')).rows[0]![0]).toBe(2)
    expect((await each.execute('PRAGMA journal_mode')).rows[0]![0]).toBe('wal')
    expect(Number((await each.execute('PRAGMA busy_timeout')).rows[0]![0])).toBeGreaterThan(0)
    each.close()
  }
  close()
})

it('a lock that another program holds for a while is waited for, and the program goes on meanwhile', async () => {
  const url = urlOf('lock.db')
  const { db, close } = await connectDatabase(url)
  await db.run(sql`create table notes (says text)`)
  const other = createClient({ url })
  const lock = await other.transaction('write')
  let turns = 0
  const turning = setInterval(() => turns++, 10)
  const written = db.run(sql`insert into notes values ('kept')`)
  await new Promise((done) => setTimeout(done, 900))
  lock.close()
  await written
  clearInterval(turning)
  // Blocked all the while it would be none or one.
  expect(turns).toBeGreaterThan(5)
  // Asked by another: what the program believes of itself is no proof.
  expect((await other.execute('select says from notes')).rows).toHaveLength(1)
  await db.run(sql`insert into notes values ('kept as well')`)
  expect((await other.execute('select says from notes')).rows).toHaveLength(2)
  other.close()
  close()
})

it('many writes at once behind a lock are all kept, and none fails for the others', async () => {
  const url = urlOf('many.db')
  const { db, close } = await connectDatabase(url)
  await db.run(sql`create table notes (says integer)`)
  const other = createClient({ url })
  const lock = await other.transaction('write')
  const written = Promise.all(
    Array.from({ length: 40 }, async (_, at) => {
      await new Promise((done) => setTimeout(done, at * 7))
      await db.run(sql`insert into notes values (${at})`)
      return (await db.all(sql`select 1`)).length
    }),
  )
  await new Promise((done) => setTimeout(done, 700))
  lock.close()
  expect((await written).every((count) => count === 1)).toBe(true)
  expect(Number((await other.execute('select count(distinct says) from notes')).rows[0]![0])).toBe(40)
  other.close()
  close()
})

it('a full disk is told in words, and no SQL', async () => {
  const { db, close } = await connectDatabase(urlOf('full.db'))
  await db.run(sql`create table notes (says blob)`)
  await db.run(sql`pragma max_page_count = 4`)
  const error = await db.run(sql`insert into notes values (randomblob(100000))`).then(
    () => undefined,
    (caught: unknown) => caught,
  )
  const document = problemDocument(error)
  expect(document).toMatchObject({ kind: 'disk-full', status: 507 })
  expect(document.remedy).toMatch(/^Free some space/)
  expect(JSON.stringify(document)).not.toMatch(/insert|notes|randomblob/i)
  close()
})

it('an error of a statement shows neither its table nor its values', async () => {
  const { db, close } = await connectDatabase(urlOf('defect.db'))
  await db.run(sql`create table secrets (word text unique)`)
  await db.run(sql`insert into secrets values ('hidden')`)
  const error = await db.run(sql`insert into secrets values ('hidden')`).then(
    () => undefined,
    (caught: unknown) => caught,
  )
  const document = problemDocument(error)
  expect(document).toMatchObject({ kind: 'defect', status: 500 })
  expect(JSON.stringify(document)).not.toMatch(/insert|secrets|hidden/i)
  close()
})

it('what is no word of the database is left alone', () => {
  expect(databaseTrouble(new Error('something else'))).toBeUndefined()
})
