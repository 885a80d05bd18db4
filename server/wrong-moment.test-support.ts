/* eslint-disable @typescript-eslint/no-explicit-any -- answers are read as an outside tool does: by member */
import { createClient } from '@libsql/client'
import { firstUnitOf, rightBench } from '@bench-wake/demo'
import { seeded } from '@bench-wake/standins'
import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { builtServer, needServer } from '../scripts/server.mjs'

/*
 * The wrong moment: whole runs over a real pseudo-terminal, the unit a process of its own at its far end, and in the middle of
 * each the program is killed, halted, its disk filled, its database locked or its clock set. What is asked for stands in
 * `WrongMoments.run`.
 */

export const wrongMoments = ['killed', 'halted', 'disk full', 'locked', 'clock set'] as const
export type WrongMoment = (typeof wrongMoments)[number]

/** How long a halt and a lock last, ms. */
export interface Lasting {
  halt: number
  lock: number
}

const standInScript = fileURLToPath(new URL('../scripts/standin.ts', import.meta.url))
const shiftScript = fileURLToPath(new URL('../scripts/bench/clock-shift.mjs', import.meta.url))
const tsx = createRequire(import.meta.url).resolve('tsx')

const familyId = 'mains-relay'
/** One after the other, so that each run has something to write. */
const images = ['quay-relay-2.1.uf2', 'quay-relay-2.1 (1).uf2']
const unitId = firstUnitOf(familyId).id
/** A unit that is not proved after so many legs counts as lost. */
const maxLegs = 8
const giveUpMs = 120_000

const wait = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/** What is said of a run whose end came before its fault. */
export const runWasOver = 'nothing went wrong: the run was over before'

export class WrongMoments {
  private program: ChildProcess | undefined
  private standIn: ChildProcess | undefined
  private base = ''
  private readonly link: string

  /** @param folder with the demo scenario; it is worked in. */
  constructor(
    private readonly folder: string,
    private readonly tend: (child: ChildProcess) => ChildProcess = (child) => child,
    private readonly lasting: Lasting = { halt: 30_000, lock: 10_000 },
  ) {
    this.link = join(folder, 'wrong-moment-port')
  }

  private get port(): string {
    return `serial:${this.link}`
  }

  async begin(): Promise<void> {
    await needServer()
    this.standIn = this.tend(
      spawn(
        process.execPath,
        ['--import', tsx, standInScript, unitId, '--link', this.link, '--speed', '60'],
        {
          stdio: ['pipe', 'ignore', 'inherit'],
        },
      ),
    )
    for (let tries = 0; tries < 600 && !existsSync(this.link); tries++) await wait(50)
    await this.startProgram()
  }

  async end(): Promise<void> {
    this.program?.kill('SIGKILL')
    this.standIn?.kill('SIGKILL')
  }

  private async startProgram(): Promise<void> {
    const child = this.tend(
      spawn(process.execPath, ['--import', shiftScript, builtServer], {
        env: { ...process.env, PORT: '0', BENCH_WAKE_DATA: this.folder, BENCH_WAKE_PORTS: this.link },
        stdio: ['ignore', 'pipe', 'inherit'],
      }),
    )
    this.program = child
    const address = await new Promise<string>((resolve, reject) => {
      let text = ''
      child.stdout!.on('data', (chunk: Buffer) => {
        text += chunk.toString()
        const found = /Bench Wake is at (\S+)/.exec(text)?.[1]
        if (found) resolve(found)
      })
      child.once('exit', () => reject(new Error(`the program ended: ${text}`)))
    })
    this.base = `${address}/api`
  }

  private async call(
    method: string,
    path: string,
    content?: unknown,
  ): Promise<{ status: number; body: any }> {
    const answer = await fetch(this.base + path, {
      method,
      headers: { 'content-type': 'application/json', connection: 'close' },
      ...(content === undefined ? {} : { body: JSON.stringify(content) }),
    })
    return { status: answer.status, body: await answer.json() }
  }
  readonly get = async (path: string): Promise<any> => (await this.call('GET', path)).body
  readonly send = async (method: string, path: string, content: unknown): Promise<any> => {
    const { status, body } = await this.call(method, path, content)
    if (status >= 400) throw new Error(`${method} ${path}: ${JSON.stringify(body)}`)
    return body
  }

  /** Does it, and undoes what can be undone; resolves when the program answers again. */
  private async strike(moment: WrongMoment): Promise<void> {
    const program = this.program!
    if (moment === 'killed') {
      const ended = new Promise((done) => program.once('exit', done))
      program.kill('SIGKILL')
      await ended
      await this.startProgram()
    } else if (moment === 'halted') {
      program.kill('SIGSTOP')
      await wait(this.lasting.halt)
      program.kill('SIGCONT')
    } else if (moment === 'disk full') {
      const limit = (bytes: string) =>
        execFileSync('prlimit', [`--fsize=${bytes}:`, '--pid', String(program.pid)])
      limit('4096')
      await wait(2000)
      limit('unlimited')
    } else if (moment === 'locked') {
      const other = createClient({ url: `file:${join(this.folder, 'bench-wake.db')}`, timeout: 10_000 })
      const lock = await other.transaction('write')
      await wait(this.lasting.lock)
      lock.close()
      other.close()
    } else {
      // Hours on, and the next time hours back.
      program.kill('SIGUSR2')
    }
  }

  /**
   * A run with something going wrong at a moment by the seed, brought to its proof.
   * @returns what was not as it has to be; empty where all was.
   */
  async run(moment: WrongMoment, seed: number): Promise<string[]> {
    const random = seeded(seed)
    const wrong: string[] = []
    const jobId: string = await rightBench(this, familyId, images[seed % 2]!)
    /** Whatever the program said was kept. */
    const seen = new Map<number, string>()
    let struck = false
    let legs = 0
    let id = ''
    const strikeAfterMs = 300 + random() * 6000
    const from = performance.now()
    while (performance.now() - from < giveUpMs) {
      const ready = await this.get(`/jobs/${jobId}/ready?port=${encodeURIComponent(this.port)}`)
      const releases = (ready.gates ?? [])
        .flatMap((gate: any) => gate.findings)
        .filter(({ level }: any) => level === 'hold')
        .map(({ rule }: any) => ({ rule, name: 'T. Wrong', reason: 'the wrong moment' }))
      const started = await this.call('POST', '/runs', { jobId, port: this.port, releases })
      if (started.status !== 201) {
        // A disk that is full, or a unit that is not back yet: a person tries again.
        await wait(300)
        continue
      }
      if (id && started.body.id !== id) wrong.push('a second run of the same job')
      id = started.body.id
      legs++
      const over = await this.follow(id, seen, () => {
        if (struck || performance.now() - from < strikeAfterMs) return null
        struck = true
        return this.strike(moment)
      })
      const run = await this.get(`/runs/${id}`)
      if (run.brokenAt !== null) wrong.push(`the chain broke at event ${run.brokenAt}`)
      const running = await this.get('/runs')
      if (running.length > 0) wrong.push(`shown as running: ${running.map((each: any) => each.id).join()}`)
      if (over.outcome === 'proved' || legs >= maxLegs) break
    }
    const wake: any[] = id ? await this.get(`/runs/${id}/wake`) : []
    for (const [seq, hash] of seen) if (wake[seq - 1]?.hash !== hash) wrong.push(`event ${seq} was lost`)
    if (wake.at(-1)?.body.outcome !== 'proved')
      wrong.push(`not proved after ${legs} legs: ${JSON.stringify(wake.at(-1)?.body)}`)
    if (!struck) wrong.push(runWasOver)
    return wrong
  }

  /** Answers what a run asks until it is over, with the unit's hands; `strike` is asked all the while. */
  private async follow(
    id: string,
    seen: Map<number, string>,
    strike: () => Promise<void> | null,
  ): Promise<any> {
    let striking: Promise<void> | null = null
    for (let last = ''; ;) {
      striking ??= strike()
      const told = await this.get(`/runs/${id}`).catch(() => null)
      if (told?.state) {
        for (const { seq, hash } of (await this.get(`/runs/${id}/wake`).catch(() => [])) as any[])
          seen.set(seq, hash)
        if (told.state.outcome !== 'running') {
          await striking
          // Said of a program that is gone meanwhile, it is asked of the next one.
          const now = await this.get(`/runs/${id}`)
          if (now.state.outcome !== 'running') return now.state
          continue
        }
        const { prompt } = told.state
        const key = prompt ? `${told.state.leg} ${prompt.prompt} ${told.state.questions.length}` : ''
        if (prompt && key !== last) {
          last = key
          if (prompt.prompt === 'enter-by-hand') this.standIn!.stdin!.write('entry\n')
          if (prompt.prompt === 'power-cycle') this.standIn!.stdin!.write('cycle\n')
          await this.call('POST', `/runs/${id}/answers`, {
            prompt: prompt.prompt,
            answer: prompt.answers[0].id,
          }).catch(() => null)
        }
      }
      await wait(40)
    }
  }
}
