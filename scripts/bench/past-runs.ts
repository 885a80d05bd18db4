import { createClient } from '@libsql/client'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Bench, Figure } from './figure'
import { memoryOf, startProgram } from './started'

const pastRuns = 2000

/** Copies the demo's past run onto every unit in turn, each with its whole wake and a closed job of its own. */
async function copyRuns(path: string): Promise<void> {
  const client = createClient({ url: `file:${path}` })
  const { rows } = await client.execute('select id from runs limit 1')
  const from = String(rows[0]![0])
  await client.execute({
    sql: `insert into runs (id, job_id, unit_id, added_at, program)
      with recursive n(i) as (select 1 union all select i + 1 from n where i < ?),
      u(id, at) as (select id, row_number() over (order by id) from units)
      select 'past-' || i, 'past-job-' || i, u.id, r.added_at - i * 60000, r.program
      from n join runs r on r.id = ? join u on u.at = 1 + i % (select count(*) from units)`,
    args: [pastRuns, from],
  })
  await client.execute(`insert into jobs
      (id, unit_id, image_id, component_id, task, kind, reason, symptoms, day, added_at, closed_at, closed_by, closing_note, releases, history)
      select r.job_id, r.unit_id, j.image_id, j.component_id, j.task, j.kind, j.reason, j.symptoms, j.day, j.added_at,
        r.added_at + 1, 'A. Lund', '', '[]', '[]'
      from runs r join (select * from jobs limit 1) j where r.id like 'past-%'`)
  await client.execute({
    sql: `insert into wake_events (run_id, seq, at, type, body, prev, hash)
      select p.id, w.seq, w.at, w.type, w.body, w.prev, w.hash from runs p, wake_events w
      where p.id like 'past-%' and w.run_id = ?`,
    args: [from],
  })
  client.close()
}

/** Start and Today of a bench that has years of work in it. */
export const pastRunsBench: Bench = {
  name: 'past runs',
  async measure() {
    const folder = mkdtempSync(join(tmpdir(), 'bench-wake-past-'))
    const figures: Figure[] = []
    try {
      const first = await startProgram(folder)
      first.child.kill('SIGTERM')
      await new Promise((done) => first.child.once('exit', done))
      await copyRuns(join(folder, 'bench-wake.db'))
      for (const time of ['first', 'second']) {
        const from = performance.now()
        const { child, address } = await startProgram(folder)
        const startMs = performance.now() - from
        const ask = async () => {
          const asked = performance.now()
          await (await fetch(`${address}/api/jobs`)).arrayBuffer()
          return performance.now() - asked
        }
        const cold = await ask()
        // The middle one of nine: a machine that others use stands still now and then.
        const again: number[] = []
        for (let time = 0; time < 9; time++) again.push(await ask())
        const warm = again.sort((a, b) => a - b)[4]!
        const say = (what: string, value: number, wanted?: number): Figure => ({
          name: `${pastRuns} past runs, ${time} start: ${what}`,
          value,
          unit: 'ms',
          ...(wanted === undefined ? {} : { wanted: `under ${wanted} ms`, holds: value < wanted }),
        })
        figures.push(
          say('the program', startMs, 1500),
          say('Today once', cold),
          say('Today again', warm, 100),
        )
        figures.push({ ...say('memory', memoryOf(child)), unit: 'MiB' })
        child.kill('SIGTERM')
        await new Promise((done) => child.once('exit', done))
      }
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
    return figures
  },
}
