/* eslint-disable @typescript-eslint/no-explicit-any -- tests read answers as an outside tool does: by member */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll } from 'vitest'
import { readSettings } from './settings'
import { startServer } from './start'

/** A folder that goes when the tests of this file are over. */
export function scratchFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'bench-wake-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}

/** A server with the demo scenario on a free port, over real HTTP. */
export async function demoServer(folder: string) {
  const settings = readSettings({ PORT: '0', BENCH_WAKE_DATA: folder })
  const server = await startServer(settings, { demo: true })
  return { ...server, ...talker(`${server.address}/api`), databaseUrl: settings.databaseUrl }
}

/** Sequence number before the newest leg's opening. */
const legStart = ({ body }: { body: any[] }): number =>
  body.filter((event) => event.body.type === 'leg.opened').at(-1).seq - 1

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
      form.append('file', new File([content as BlobPart], name))
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
            (body.type === 'prompt.asked' && body.prompt.startsWith('power-up')) ||
            (body.type === 'step.started' && body.step > 0),
          last,
        )
        const end = events[events.length - 1]!
        if (end.data.body.type !== 'prompt.asked') return
        last = end.id
        await this.send('POST', `/runs/${runId}/answers`, { prompt: end.data.body.prompt, answer: 'done' })
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
