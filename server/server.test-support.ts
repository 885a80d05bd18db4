/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import type { Paths } from '@bench-wake/demo'
import { spawn, type ChildProcess } from 'node:child_process'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll } from 'vitest'
import { builtServer } from '../scripts/server.mjs'
import { seededFolderName } from './seeded-folder.test-support'
import { readSettings } from './settings'
import { runProgram } from './program'

/** A folder that goes when the tests of this file are over. */
export function scratchFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'bench-wake-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}

/** A folder with the demo scenario already in it: a copy of the one that was seeded for all tests. */
export function seededFolder(): string {
  const folder = scratchFolder()
  cpSync(process.env[seededFolderName]!, folder, { recursive: true })
  return folder
}

const children = new Set<ChildProcess>()

/** A process that is ended with its file's tests, whether they pass or fail. */
export function tended(child: ChildProcess): ChildProcess {
  children.add(child)
  child.once('exit', () => children.delete(child))
  return child
}

/** Ends whatever the tests of a file started and left running. Call once at the top of the file. */
export function endChildren(): void {
  afterAll(() => {
    for (const child of children) child.kill('SIGKILL')
  })
}

/** The program as a process of its own, so that it can be killed. @throws Error with what it said when it ends first. */
export async function startProgram(folder: string, environment: Record<string, string> = {}) {
  const child = tended(
    spawn(process.execPath, [builtServer, '--demo'], {
      env: { ...process.env, PORT: '0', BENCH_WAKE_DATA: folder, ...environment },
      stdio: ['ignore', 'pipe', 'inherit'],
    }),
  )
  const address = await new Promise<string>((resolve, reject) => {
    let text = ''
    child.stdout!.on('data', (chunk: Buffer) => {
      text += chunk.toString()
      const found = /Bench Wake is at (\S+)/.exec(text)?.[1]
      if (found) resolve(found)
    })
    child.once('exit', () => reject(new Error(`the program ended: ${text}`)))
  })
  return { child, folder, ...talker(`${address}/api`) }
}

/** Resolves with the exit code once a process has ended. */
export const ended = (child: ChildProcess) =>
  new Promise<number | null>((done) =>
    child.exitCode !== null ? done(child.exitCode) : child.once('exit', done),
  )

/** A server with the demo scenario on a free port, over real HTTP. */
export async function demoServer(folder: string, environment: Record<string, string> = {}) {
  const settings = readSettings({
    PORT: '0',
    BENCH_WAKE_DATA: folder,
    BENCH_WAKE_SHOWN_PORTS: 'none',
    ...environment,
  })
  const server = await runProgram(settings, { demo: true })
  return { ...server, ...talker(`${server.address}/api`), databaseUrl: settings.databaseUrl }
}

/** Sequence number before the newest leg's opening. */
const legStart = ({ body }: { body: any[] }): number =>
  body.filter((event) => event.body.type === 'leg.opened').at(-1).seq - 1

/** The same server, as the demo's helpers ask it: a refusal fails the test. */
export function pathsOf({ get, send }: Pick<ReturnType<typeof talker>, 'get' | 'send'>): Paths {
  const content = ({ status, body }: { status: number; body: any }) => {
    if (status >= 400) throw new Error(JSON.stringify(body))
    return body
  }
  return {
    get: async (path) => content(await get(path)),
    send: async (method, path, form) => content(await send(method, path, form)),
  }
}

/** Short ways to talk to a server. */
export function talker(base: string) {
  const json = async (response: Response) => ({
    status: response.status,
    type: response.headers.get('content-type') ?? '',
    // Tests read answers as an outside tool would: by member.
    body: (await response.json()) as any,
  })
  return {
    base,
    get: async (path: string) => json(await fetch(base + path)),
    send: async (method: string, path: string, content: unknown) =>
      json(
        await fetch(base + path, {
          method,
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(content),
        }),
      ),
    async upload(name: string, content: string | Uint8Array) {
      const form = new FormData()
      form.append('file', new File([content as Uint8Array<ArrayBuffer>], name))
      return json(await fetch(`${base}/images`, { method: 'POST', body: form }))
    },
    /** Answers the run's steps of power one after the other, until it opens its port. */
    async powerUp(runId: string) {
      // Behind the legs that are over already.
      const { state } = (await this.get(`/runs/${runId}`)).body
      for (
        let last: number | undefined =
          state.leg > 1 ? legStart(await this.get(`/runs/${runId}/wake`)) : undefined;
        ;
      ) {
        const { events } = await this.stream(
          runId,
          ({ body }) =>
            (body.type === 'prompt.asked' && body.prompt.startsWith('power-')) ||
            (body.type === 'step.started' && body.step > 0),
          last,
        )
        const end = events[events.length - 1]!
        if (end.data.body.type !== 'prompt.asked') return
        last = end.id
        await this.send('POST', `/runs/${runId}/answers`, {
          prompt: end.data.body.prompt,
          answer: end.data.body.answers[0].id,
        })
      }
    },
    /**
     * Follows a run to its end, answering what it asks with its first answer, or as `answer` says.
     * @returns its state at the end.
     */
    async follow(
      runId: string,
      answer: (prompt: { prompt: string; answers: { id: string }[] }) => string | Promise<string> = ({
        answers,
      }) => answers[0]!.id,
    ): Promise<any> {
      for (let last: number | undefined; ;) {
        const { events, over } = await this.stream(runId, ({ body }) => body.type === 'prompt.asked', last)
        const end = events.at(-1)
        last = end?.id ?? last
        if (over || !end) return (await this.get(`/runs/${runId}`)).body.state
        // One that was answered before, by an earlier leg or by somebody else, is refused and passed by.
        const given = await answer(end.data.body)
        await this.send('POST', `/runs/${runId}/answers`, { prompt: end.data.body.prompt, answer: given })
      }
    },
    /** Reads a run's stream until `stop` says so or the run is over; the ids and data of its events. */
    async stream(runId: string, stop: (data: any) => boolean, lastEventId?: number) {
      const response = await fetch(`${base}/runs/${runId}/live`, {
        headers: lastEventId === undefined ? {} : { 'last-event-id': String(lastEventId) },
      })
      const events: { id: number; data: any }[] = []
      let text = ''
      const decoder = new TextDecoder()
      for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
        text += decoder.decode(chunk, { stream: true })
        for (let at = text.indexOf('\n\n'); at >= 0; at = text.indexOf('\n\n')) {
          const block = text.slice(0, at)
          text = text.slice(at + 2)
          if (/^event: over/m.test(block)) return { events, over: true }
          const id = /^id: (\d+)$/m.exec(block)?.[1]
          const data = /^data: (.*)$/m.exec(block)?.[1]
          if (!id || !data) continue
          const event = { id: Number(id), data: JSON.parse(data) }
          events.push(event)
          // Leaving the loop cancels the stream.
          if (stop(event.data)) return { events, over: false }
        }
      }
      return { events, over: true }
    },
  }
}
