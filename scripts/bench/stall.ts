import { createClient } from '@libsql/client'
import { randomFillSync } from 'node:crypto'
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { builtServer, needServer } from '../server.mjs'
import type { Bench, Figure } from './figure'
import { startProgram } from './started'

const imageBytes = 255 * 1024 * 1024
const openJobs = 10_000
const readers = 50

interface RunNow {
  outcome: string
  prompt?: { prompt: string; answers: { id: string }[] } | null
  progress?: { unit: string; done: number } | null
  steps: { kind: string; startedAt?: number; endedAt?: number }[]
}

/** The program with a watch on its event loop. */
async function watched(folder: string) {
  const child = spawn(
    process.execPath,
    ['--import', new URL('./loop-watch.mjs', import.meta.url).href, builtServer, '--demo'],
    { env: { ...process.env, PORT: '0', BENCH_WAKE_DATA: folder }, stdio: ['ignore', 'pipe', 'inherit'] },
  )
  let said = ''
  let longest: ((ms: number) => void) | undefined
  const address = await new Promise<string>((resolve, reject) => {
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString()
      const found = /Bench Wake is at (\S+)/.exec(said)?.[1]
      if (found) resolve(found)
      const turn = /longest turn ([\d.]+)\n/.exec(said)
      if (!turn) return
      said = said.replace(turn[0], '')
      longest?.(Number(turn[1]))
    })
    child.once('exit', () => reject(new Error(`the program ended: ${said}`)))
  })
  /** The longest turn since the last call, ms. */
  const longestTurn = () =>
    new Promise<number>((done) => {
      longest = done
      child.kill('SIGUSR2')
    })
  return { child, address: `${address}/api`, longestTurn }
}

/** Most memory that a process ever had, MiB (proc(5), VmHWM). */
const peakOf = ({ pid }: ChildProcess) =>
  Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024

/** Ten thousand open jobs over the demo's units, as another tool would have made them. */
async function addJobs(folder: string): Promise<void> {
  const client = createClient({ url: `file:${join(folder, 'bench-wake.db')}` })
  const { columns } = await client.execute('select * from jobs limit 1')
  const own = columns.map((name) =>
    name === 'id'
      ? "'made-' || n"
      : name === 'day'
        ? "date('2031-01-01', '+' || (n / 100) || ' days')"
        : `"${name}"`,
  )
  await client.execute(`with recursive made(n) as (select 1 union all select n + 1 from made where n < ${openJobs})
    insert into jobs (${columns.map((name) => `"${name}"`).join(', ')})
    select ${own.join(', ')} from made join (select * from jobs where closed_at is null limit 1)`)
  client.close()
}

/** A run that is written at its own pace while everybody else asks for a lot. */
export const stall: Bench = {
  name: 'stall',
  async measure() {
    await needServer()
    const folder = mkdtempSync(join(tmpdir(), 'bench-wake-stall-'))
    const first = await startProgram(folder)
    first.child.kill('SIGTERM')
    await new Promise((done) => first.child.once('exit', done))
    await addJobs(folder)
    const { child, address, longestTurn } = await watched(folder)
    const json = async <T>(path: string, content?: unknown): Promise<T> => {
      const answer = await fetch(address + path, {
        ...(content === undefined
          ? {}
          : {
              method: 'POST',
              headers: { 'content-type': 'application/json' },
              body: JSON.stringify(content),
            }),
      })
      return (await answer.json()) as T
    }
    const figures: Figure[] = []
    try {
      const bytes = new Uint8Array(imageBytes)
      for (let at = 0; at < bytes.length; at += 65_536)
        randomFillSync(bytes, at, Math.min(65_536, bytes.length - at))
      const form = new FormData()
      form.append('file', new File([bytes], 'large.bin'))
      form.append('address', '0x0')
      const { id: imageId } = (await (
        await fetch(`${address}/images`, { method: 'POST', body: form })
      ).json()) as {
        id: string
      }
      /** Runs the job to its end; `during` goes on while it writes. @returns the time of its write, ms, and the longest turn in it. */
      const write = async (jobId: string, during?: (runId: string) => Promise<() => Promise<void>>) => {
        const { id } = await json<{ id: string }>('/runs', {
          jobId,
          port: 'stand-in:fog-07',
          speed: 1,
          releases: [{ rule: 'version-direction', name: 'bench', reason: 'written twice' }],
        })
        let end: (() => Promise<void>) | undefined
        let turn = 0
        for (;;) {
          const { state } = await json<{ state: RunNow }>(`/runs/${id}`)
          if (state.prompt)
            await json(`/runs/${id}/answers`, {
              prompt: state.prompt.prompt,
              answer: state.prompt.answers[0]!.id,
            })
          const step = state.steps.find(({ kind }) => kind === 'write')!
          if (step.startedAt !== undefined && !end) {
            end = (await during?.(id)) ?? (async () => {})
            await longestTurn()
          }
          if (step.endedAt !== undefined) {
            if (turn === 0) turn = await longestTurn()
            await end?.()
            if (state.outcome !== 'running')
              return { ms: step.endedAt - step.startedAt!, turn, outcome: state.outcome }
          }
          if (state.outcome !== 'running' && step.endedAt === undefined)
            throw new Error(`the run ended as ${state.outcome}`)
          await wait(50)
        }
      }
      const quiet = await write('job-fog-07')
      const pages: number[] = []
      const { job } = await json<{ job: { imageId: string } }>('/jobs/job-fog-07')
      const again = { unitId: 'fog-07', imageId: job.imageId, reason: 'once more', day: '2026-12-02' }
      const busy = await write((await json<{ id: string }>('/jobs', again)).id, async (runId) => {
        const stop = new AbortController()
        const { signal } = stop
        const drain = async (path: string) => {
          while (!signal.aborted) {
            const answer = await fetch(address + path, { signal })
            if (!answer.ok) return void (await answer.arrayBuffer())
            for await (const piece of answer.body as unknown as AsyncIterable<Uint8Array>) void piece
          }
        }
        const list = async () => {
          let after = ''
          while (!signal.aborted) {
            const from = performance.now()
            const rows = await json<{ job: { id: string } }[]>(`/jobs?count=100${after}`)
            if (after === '') pages.push(performance.now() - from)
            after = rows.length < 100 ? '' : `&after=${rows.at(-1)!.job.id}`
          }
        }
        const all = [
          ...Array.from({ length: 4 }, () => drain(`/images/${imageId}/bytes?format=file`)),
          drain(`/images/${imageId}/bytes?format=ihex`),
          list(),
          ...Array.from({ length: readers }, () => drain(`/runs/${runId}/live`)),
        ].map((each) => each.catch(() => {}))
        return async () => {
          stop.abort()
          await Promise.all(all)
        }
      })
      const page = pages.sort((a, b) => a - b)[pages.length >> 1] ?? 0
      const limits: [string, number, string, number][] = [
        [
          `longest turn of the event loop in a write beside four downloads of 255 MiB, an export as HEX, ${openJobs} jobs listed and ${readers} readers`,
          busy.turn,
          'ms',
          50,
        ],
        ['most memory of the program, its threads included', peakOf(child), 'MiB', 600],
        [`the first page of ${openJobs} jobs beside all that, median`, page, 'ms', 100],
      ]
      for (const [name, value, unit, limit] of limits)
        figures.push({
          name,
          value,
          unit,
          reference: limit,
          ratio: value / limit,
          wanted: 'below 1',
          holds: value < limit,
        })
      figures.push({
        name: 'the same write beside nothing, against beside all that',
        value: busy.ms,
        unit: 'ms',
        reference: quiet.ms,
        ratio: quiet.ms / busy.ms,
        wanted: 'at least 0.97',
        holds: quiet.ms / busy.ms >= 0.97,
      })
    } finally {
      child.kill('SIGKILL')
      rmSync(folder, { recursive: true, force: true })
    }
    return figures
  },
}
