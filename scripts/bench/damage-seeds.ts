// node damage-seeds.ts FOLDER FIRST STEP END: opens the program on copies of a database with flipped bits, a line for each.
import { createClient } from '@libsql/client'
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sentenceOf } from '../../server/sentence'
import { readSettings } from '../../server/settings'
import { openProgram } from '../../server/start'
import type { Seen } from './damage'

const [base, first, step, end] = process.argv.slice(2) as [string, string, string, string]
const file = 'bench-wake.db'

/** Numbers that depend on the seed alone (Mulberry32, from memory). */
function random(seed: number): () => number {
  let state = seed * 0x9e3779b9
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state)
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32
  }
}

/** Flips one to eight bits: near each other or apart, in the database or its log, in the first pages as often as in the rest. */
function flip(folder: string, seed: number): string {
  const next = random(seed)
  const part = existsSync(join(folder, `${file}-wal`)) && next() < 0.2 ? '-wal' : ''
  const path = join(folder, file + part)
  const bytes = readFileSync(path)
  const kind = next()
  const reach = part === '' && kind < 0.1 ? 100 : part === '' && kind < 0.25 ? 16_384 : bytes.length
  const anchor = Math.floor(next() * reach)
  const near = next() < 0.5
  const places: number[] = []
  for (let left = 1 + Math.floor(next() * 8); left > 0; left--) {
    const at = near ? Math.min(bytes.length - 1, anchor + Math.floor(next() * 8)) : Math.floor(next() * reach)
    bytes[at]! ^= 1 << Math.floor(next() * 8)
    places.push(at)
  }
  writeFileSync(path, bytes)
  return `${part || 'database'} at ${places.join(', ')}`
}

/** What is on the disk, read by SQLite alone: rows as hexadecimal digits, so that no damage stops the reading. */
async function onDisk(
  folder: string,
): Promise<{ units: Map<string, string>; runs: Map<string, string>; events: Map<string, string> } | null> {
  const client = createClient({ url: `file:${join(folder, file)}` })
  const look = async (sql: string) =>
    new Map((await client.execute(sql)).rows.map((row) => [String(row[0]), String(row[1])]))
  const hex = (column: string) => `hex(cast(${column} as blob))`
  try {
    return {
      units: await look(
        `select ${hex('id')}, ${['id', 'family_id', 'name', 'place', 'serial', 'added_at'].map((column) => `typeof(${column}) || ${hex(column)}`).join(" || '.' || ")} from units`,
      ),
      runs: await look(
        `select ${hex('id')}, ${['id', 'job_id', 'unit_id', 'added_at'].map((column) => `typeof(${column}) || ${hex(column)}`).join(" || '.' || ")} from runs`,
      ),
      events: await look(
        `select r, group_concat(e, ';') from (select ${hex('run_id')} r, ${['seq', 'at', 'type', 'body', 'prev', 'hash'].map((column) => `typeof(${column}) || ${hex(column)}`).join(" || '.' || ")} e from wake_events not indexed order by run_id, seq) group by r`,
      ),
    }
  } catch {
    return null
  } finally {
    client.close()
  }
}

const hexOf = (text: string) => Buffer.from(text).toString('hex').toUpperCase()
const isSentence = (text: string) =>
  text.split('\n').length === 1 && /\.$/.test(text) && !/\bat \S+:\d+|Error:|PRAGMA|select /i.test(text)

interface Row {
  runId: string
  outcome: string
}

const folder = mkdtempSync(join(tmpdir(), 'bench-wake-seed-'))
const scratch = join(folder, 'data')

/** Two copies of the database and its log: one for the program, one to be read by SQLite alone. */
function freshCopy(): void {
  for (const to of [scratch, `${scratch}-look`]) {
    rmSync(to, { recursive: true, force: true })
    mkdirSync(to)
    for (const part of ['', '-wal'])
      if (existsSync(join(base, file + part))) copyFileSync(join(base, file + part), join(to, file + part))
  }
}

type Fetch = Awaited<ReturnType<typeof openProgram>>['fetch']
const get = async (fetch: Fetch, path: string) => {
  const answer = await fetch(new Request(`http://127.0.0.1/api${path}`, { headers: { host: '127.0.0.1' } }))
  return { status: answer.status, body: (await answer.json()) as unknown }
}

async function lookAt(seed: number, flipped: string): Promise<Seen> {
  const wrong: string[] = []
  const settings = readSettings({ PORT: '0', BENCH_WAKE_DATA: scratch })
  let program: Awaited<ReturnType<typeof openProgram>>
  try {
    program = await openProgram(settings, () => Promise.resolve())
  } catch (error) {
    const says = sentenceOf(error)
    return {
      seed,
      flipped,
      result: 'refused',
      wrong: isSentence(says) ? [] : [`refused without a sentence: ${says}`],
    }
  }
  try {
    const disk = await onDisk(`${scratch}-look`)
    const lists: Record<string, unknown> = {}
    for (const path of [
      '/logbook',
      '/units',
      '/jobs',
      '/images',
      '/families',
      '/data',
      '/health',
      '/ports',
    ]) {
      const { status, body } = await get(program.fetch, path)
      if (status !== 200) wrong.push(`${path} answers ${status} ${JSON.stringify(body).slice(0, 200)}`)
      lists[path] = body
    }
    const rows = Array.isArray(lists['/logbook']) ? (lists['/logbook'] as Row[]) : []
    const units = Array.isArray(lists['/units']) ? (lists['/units'] as { id: string }[]) : []
    for (const [key, row] of disk?.units ?? [])
      if (truth.disk.units.get(key) === row && !units.some(({ id }) => hexOf(id) === key))
        wrong.push('a whole unit is not listed')
    for (const [key, events] of truth.disk.events) {
      const shown = rows.find(({ runId }) => hexOf(runId) === key)?.outcome
      const same = disk?.events.get(key) === events
      // The log ends where it is damaged, and with it a record: that its last events are missing no chain tells.
      const cutShort = events.startsWith(disk?.events.get(key) ?? '-')
      if (!same && !cutShort && shown === 'proved') {
        const [now, before] = [disk?.events.get(key), events].map((text) => text?.split(';') ?? [])
        const at = before!.findIndex((event, index) => event !== now![index])
        wrong.push(`a damaged run is shown as proved: event ${at + 1}: ${now![at]} was ${before![at]}`)
      }
      if (same && disk?.runs.get(key) === truth.disk.runs.get(key) && shown !== truth.outcomes.get(key))
        wrong.push(`a whole run is shown as ${shown}`)
    }
  } finally {
    await program.stop()
  }
  return { seed, flipped, result: 'started', wrong: [...new Set(wrong)] }
}

freshCopy()
const whole = await openProgram(readSettings({ PORT: '0', BENCH_WAKE_DATA: scratch }), () =>
  Promise.resolve(),
)
const rows = (await get(whole.fetch, '/logbook')).body as Row[]
/** Outcomes and rows of the undamaged database. */
const truth = {
  outcomes: new Map(rows.map(({ runId, outcome }) => [hexOf(runId), outcome])),
  disk: (await onDisk(`${scratch}-look`))!,
}
await whole.stop()
for (let seed = Number(first); seed < Number(end); seed += Number(step)) {
  freshCopy()
  const flipped = flip(scratch, seed)
  flip(`${scratch}-look`, seed)
  console.log(`begin ${seed} ${flipped}`)
  console.log(JSON.stringify(await lookAt(seed, flipped)))
}
rmSync(folder, { recursive: true, force: true })
process.exit(0)
