import { randomFillSync } from 'node:crypto'
import type { ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { request } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Bench, Figure } from './figure'
import { memoryOf, startProgram } from './started'

const connections = 3000
const imageBytes = 200 * 1024 * 1024

interface Asked {
  prompt?: { prompt: string } | null
  progress?: { unit: string; done: number } | null
  outcome: string
}

/** The program with a run in the middle of its write, and what it takes meanwhile. */
class Working {
  private readonly folder = mkdtempSync(join(tmpdir(), 'bench-wake-many-'))
  private child: ChildProcess | undefined
  address = ''
  private readonly waits: number[] = []
  private maxRss = 0
  runId = ''

  async begin(): Promise<void> {
    const { child, address } = await startProgram(this.folder)
    this.child = child
    this.address = address
    const send = async (path: string, content: unknown) =>
      (await fetch(`${this.address}/api${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(content),
      }).then((answer) => answer.json())) as { id: string }
    this.runId = (await send('/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07', speed: 1 })).id
    for (;;) {
      const { prompt, progress } = await this.state()
      if (prompt) await send(`/runs/${this.runId}/answers`, { prompt: prompt.prompt, answer: 'done' })
      if (progress?.unit === 'bytes') return
      await new Promise((done) => setTimeout(done, 100))
    }
  }

  async state(): Promise<Asked> {
    return ((await (await fetch(`${this.address}/api/runs/${this.runId}`)).json()) as { state: Asked }).state
  }

  rss(): number {
    return memoryOf(this.child!)
  }

  /** Health's waits, ms, and the most memory, MiB, while something is done. */
  async meanwhile(act: () => Promise<void>): Promise<{ late: number; grown: number }> {
    const before = this.rss()
    this.maxRss = before
    let on = true
    const probing = (async () => {
      while (on) {
        const from = performance.now()
        await (await fetch(`${this.address}/api/health`)).arrayBuffer()
        this.waits.push(performance.now() - from)
        this.maxRss = Math.max(this.maxRss, this.rss())
        await new Promise((done) => setTimeout(done, 5))
      }
    })()
    await act()
    on = false
    await probing
    const sorted = this.waits.splice(0).sort((a, b) => a - b)
    return { late: sorted[Math.floor(sorted.length * 0.99)] ?? 0, grown: this.maxRss - before }
  }

  end(): void {
    this.child?.kill('SIGKILL')
    rmSync(this.folder, { recursive: true, force: true })
  }
}

/** A large image that comes in, and live views without end, while a unit is written. */
export const many: Bench = {
  name: 'many',
  async measure() {
    const figures: Figure[] = []
    const working = new Working()
    try {
      await working.begin()
      const bytes = new Uint8Array(imageBytes)
      for (let at = 0; at < bytes.length; at += 65_536) randomFillSync(bytes, at, 65_536)
      const form = new FormData()
      form.append('file', new File([bytes], 'large.bin'))
      const upload = await working.meanwhile(async () => {
        await (await fetch(`${working.address}/api/images`, { method: 'POST', body: form })).arrayBuffer()
      })
      const sizeMiB = imageBytes / 1024 / 1024
      figures.push(
        {
          name: 'health while an image of 200 MiB comes in and a unit is written, 99th of a hundred',
          value: upload.late,
          unit: 'ms',
          reference: 100,
          ratio: upload.late / 100,
          wanted: 'below 1',
          holds: upload.late < 100,
        },
        {
          name: 'memory that it takes',
          value: upload.grown,
          unit: 'MiB',
          reference: 3 * sizeMiB,
          ratio: upload.grown / (3 * sizeMiB),
          wanted: 'below 1',
          holds: upload.grown < 3 * sizeMiB,
        },
      )
      const asked: ReturnType<typeof request>[] = []
      const crowd = await working.meanwhile(async () => {
        for (let at = 0; at < connections; at += 50) {
          await Promise.all(
            Array.from(
              { length: 50 },
              () =>
                new Promise<void>((done) => {
                  const one = request(
                    `${working.address}/api/runs/${working.runId}/live`,
                    { agent: false },
                    (answer) => {
                      answer.on('error', () => {}).resume()
                      done()
                    },
                  )
                  one.on('error', () => done())
                  one.end()
                  asked.push(one)
                }),
            ),
          )
        }
      })
      for (const one of asked) one.destroy()
      const { outcome } = await working.state()
      figures.push({
        name: `health while ${connections} live views are asked for and the run goes on (${outcome}), 99th of a hundred`,
        value: crowd.late,
        unit: 'ms',
        reference: 250,
        ratio: crowd.late / 250,
        wanted: 'below 1, and the run goes on',
        holds: crowd.late < 250 && ['running', 'proved'].includes(outcome),
      })
    } finally {
      working.end()
    }
    return figures
  },
}
