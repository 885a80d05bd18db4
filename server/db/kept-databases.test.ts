/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { createClient } from '@libsql/client'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect, it } from 'vitest'
import { runProgram } from '../program'
import { scratchFolder, talker } from '../server.test-support'
import { readSettings } from '../settings'

const kept = fileURLToPath(new URL('../migrations/kept', import.meta.url))
const migrations = readdirSync(fileURLToPath(new URL('../migrations', import.meta.url))).filter((name) =>
  name.endsWith('.sql'),
)

it('a database of every earlier form is kept for the tests', () => {
  expect(readdirSync(kept)).toHaveLength(migrations.length - 1)
})

/** Rows of each table, as they are on disk. */
async function counts(url: string): Promise<Record<string, number>> {
  const client = createClient({ url })
  const { rows } = await client.execute(
    "select name from sqlite_master where type = 'table' and name not like 'sqlite_%' and name not like '__drizzle%'",
  )
  const found: Record<string, number> = {}
  for (const name of rows.map((row) => String(row[0])))
    found[name] = Number((await client.execute(`select count(*) from ${name}`)).rows[0]![0])
  client.close()
  return found
}

it.each(readdirSync(kept))('the database of %s is brought to this form with nothing lost', async (name) => {
  const settings = readSettings({ PORT: '0', BENCH_WAKE_DATA: scratchFolder() })
  const old = createClient({ url: settings.databaseUrl })
  await old.executeMultiple(readFileSync(join(kept, name), 'utf8'))
  old.close()
  const before = await counts(settings.databaseUrl)

  const server = await runProgram(settings)
  const { get } = talker(`${server.address}/api`)
  try {
    const data = (await get('/data')).body
    expect(data.damage).toEqual([])
    // What it was before the update is kept beside it.
    expect(data.backups.map((file: any) => file.name)).toEqual([
      expect.stringMatching(/before an update\.db$/),
    ])
    const [unit] = (await get('/units')).body
    expect(unit).toMatchObject({ id: 'fog-11', familyId: 'fog-signal' })
    expect((await get(`/units/${unit.id}`)).body.snapshots.length).toBeGreaterThan(0)
    const [closed] = (await get('/jobs/closed')).body
    const job = (await get(`/jobs/${closed.id}`)).body
    expect(job.job.unitId).toBe('fog-11')
    expect(job.runs[0]).toMatchObject({ state: { outcome: 'cut' } })
    const [image] = (await get('/images')).body
    const bytes = await (await fetch(`${server.address}/api/images/${image.id}/bytes?format=file`)).text()
    // Intel Hexadecimal Object File Format Specification, revision A: four bytes and the end record.
    expect(bytes).toBe(':0400000001020304F2\n:00000001FF\n')
  } finally {
    await server.stop()
  }
  const after = await counts(settings.databaseUrl)
  // One event more: the run that was left open is called cut. What is only kept for speed is made anew.
  for (const [table, rows] of Object.entries(before))
    expect({ table, rows: after[table]! }).toEqual({
      table,
      rows:
        table === 'wake_events'
          ? rows + 1
          : ['image_sights', 'run_summaries'].includes(table)
            ? expect.anything()
            : rows,
    })
})
