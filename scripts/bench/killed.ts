import { brokenAt, foldWake, type WakeEvent } from '@bench-wake/core/run'
import type { ChildProcess } from 'node:child_process'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Bench } from './figure'
import { startProgram } from './started'

const count = 200
const today = new Date().toISOString().slice(0, 10)

async function start(folder: string): Promise<{ child: ChildProcess; base: string }> {
  const { child, address } = await startProgram(folder)
  return { child, base: `${address}/api` }
}

async function kill(child: ChildProcess): Promise<void> {
  const ended = new Promise((done) => child.once('exit', done))
  child.kill('SIGKILL')
  await ended
}

interface Answer {
  state: { outcome: string; acknowledged: number; prompt: { prompt: string } | null; seq: number }
  brokenAt: number | null
}

/** The byte that the unit acknowledged last, told from the events alone: erasing takes it back to the first. */
function lastByteOf(wake: readonly WakeEvent[]): number {
  let kinds: string[] = []
  let byte = 0
  for (const { body } of wake) {
    if (body.type === 'run.opened' || body.type === 'leg.opened') kinds = body.plan.map(({ kind }) => kind)
    if (body.type !== 'progress') continue
    if (kinds[body.step] === 'erase') byte = 0
    if (kinds[body.step] === 'write') byte = body.done
  }
  return byte
}

/** The server killed outright at random moments of real runs: what the next start finds. */
export const killed: Bench = {
  name: 'killed',
  async measure() {
    const seed = mkdtempSync(join(tmpdir(), 'bench-wake-killed-'))
    const first = await start(seed)
    first.child.kill('SIGTERM')
    await new Promise((done) => first.child.once('exit', done))
    const folder = `${seed}-run`
    cpSync(seed, folder, { recursive: true })
    let good = 0
    const wrong: string[] = []
    let running = await start(folder)
    const call = async <T>(method: string, path: string, content?: unknown): Promise<T> => {
      const answer = await fetch(running.base + path, {
        method,
        headers: { 'content-type': 'application/json', connection: 'close' },
        ...(content === undefined ? {} : { body: JSON.stringify(content) }),
      })
      const body = (await answer.json()) as T
      if (!answer.ok) throw new Error(`${method} ${path}: ${JSON.stringify(body)}`)
      return body
    }
    let jobId = 'job-fog-07'
    const { job } = await call<{ job: { imageId: string } }>('GET', `/jobs/${jobId}`)
    for (let turn = 0; turn < count; turn++) {
      const { id } = await call<{ id: string }>('POST', '/runs', {
        jobId,
        port: 'stand-in:fog-07',
        speed: 10,
        releases: [{ rule: 'version-direction', name: 'bench', reason: 'killed again and again' }],
      })
      // Up to four seconds of a run that takes about as long at ten times real time.
      const until = performance.now() + Math.random() * 4000
      let seen = { acknowledged: 0, seq: 0, outcome: 'running' }
      while (performance.now() < until) {
        const { state } = await call<Answer>('GET', `/runs/${id}`)
        seen = state
        if (state.outcome !== 'running') break
        if (state.prompt) {
          await call('POST', `/runs/${id}/answers`, { prompt: state.prompt.prompt, answer: 'done' }).catch(
            () => {},
          )
        }
        await new Promise((done) => setTimeout(done, 15))
      }
      await kill(running.child)
      running = await start(folder)
      const { state, brokenAt: broken } = await call<Answer>('GET', `/runs/${id}`)
      const wake = await call<WakeEvent[]>('GET', `/runs/${id}/wake`)
      const where = `kill ${turn + 1}, event ${state.seq}`
      const proved = state.outcome === 'proved'
      if (!proved && !['cut', 'failed'].includes(state.outcome)) {
        wrong.push(`${where}: shown as ${state.outcome}`)
      } else if (broken !== null || brokenAt(wake) !== null) wrong.push(`${where}: the chain is broken`)
      else if (seen.outcome === 'running' && state.seq < seen.seq) wrong.push(`${where}: an event was lost`)
      else if (lastByteOf(wake) !== state.acknowledged) wrong.push(`${where}: another byte`)
      else if (foldWake(wake)!.acknowledged !== state.acknowledged) wrong.push(`${where}: folds otherwise`)
      else good++
      if ((turn + 1) % 20 === 0) process.stderr.write(`  ${turn + 1} of ${count} kills, ${good} as wanted\n`)
      if (proved) {
        const made = await call<{ id: string }>('POST', '/jobs', {
          unitId: 'fog-07',
          imageId: job.imageId,
          reason: 'once more',
          day: today,
        })
        jobId = made.id
      }
    }
    await kill(running.child)
    rmSync(seed, { recursive: true, force: true })
    rmSync(folder, { recursive: true, force: true })
    for (const line of wrong.slice(0, 20)) console.log(`  ${line}`)
    return [
      {
        name: `${count} times killed outright: cut at the right byte, chain whole, no seen event lost`,
        value: good,
        unit: 'kills',
        reference: count,
        ratio: good / count,
        wanted: 'all of them',
        holds: good === count,
      },
    ]
  },
}
