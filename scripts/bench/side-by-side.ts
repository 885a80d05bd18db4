import { firstUnitOf, rightBench, type Paths } from '@bench-wake/demo'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { readSettings } from '../../server/settings'
import { runProgram } from '../../server/program'
import type { Bench } from './figure'

/** A job of each family whose run takes a while, with the image for its first unit. */
const images: Record<string, string> = {
  'fog-signal': 'fs20-main-2.48.hex',
  'marine-radio': 'RADIO.BIN',
  'station-inverter': 'rel/img1.hex',
  'buoy-battery': 'bp5_update.s19',
  'launch-motor': 'drive-3.6.elf',
  'boat-davit': 'j0_520.hex',
  'mains-relay': 'quay-relay-2.1.uf2',
  'tide-logger': 'tide-2026-03-16.dfu',
}
const askEveryMs = 100

/** Eight runs of the whole server, with its database and its paths, in real time. */
export const sideBySide: Bench = {
  name: 'side-by-side',
  async measure() {
    const folder = mkdtempSync(join(tmpdir(), 'bench-wake-side-'))
    const server = await runProgram(readSettings({ PORT: '0', BENCH_WAKE_DATA: folder }), { demo: true })
    const call = async (method: string, path: string, content?: unknown) => {
      const answer = await fetch(`${server.address}/api${path}`, {
        method,
        ...(content === undefined
          ? {}
          : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(content) }),
      })
      const body = await answer.json()
      if (!answer.ok) throw new Error(`${method} ${path}: ${JSON.stringify(body)}`)
      return body
    }
    const program: Paths = { get: (path) => call('GET', path), send: call }
    const ids: string[] = []
    for (const [familyId, image] of Object.entries(images)) {
      const jobId = await rightBench(program, familyId, image)
      const port = `stand-in:${firstUnitOf(familyId).id}`
      const { gates } = (await program.get(`/jobs/${jobId}/ready?port=${port}`)) as {
        gates: { findings: { level: string; rule: string }[] }[]
      }
      const releases = gates
        .flatMap(({ findings }) => findings)
        .filter(({ level }) => level === 'hold')
        .map(({ rule }) => ({ rule, name: 'A. Lund', reason: 'a benchmark' }))
      ids.push((await program.send('POST', '/runs', { jobId, port, speed: 1, releases })).id)
    }
    const delay = monitorEventLoopDelay({ resolution: 5 })
    delay.enable()
    const outcomes = await Promise.all(
      ids.map(async (id) => {
        for (;;) {
          const { state } = await program.get(`/runs/${id}`)
          if (state.outcome !== 'running') return state.outcome as string
          if (state.prompt) {
            const answer = { prompt: state.prompt.prompt, answer: state.prompt.answers[0].id }
            await program.send('POST', `/runs/${id}/answers`, answer).catch(() => {})
          }
          await new Promise((done) => setTimeout(done, askEveryMs))
        }
      }),
    )
    delay.disable()
    const late = delay.percentile(99) / 1e6
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
    const proved = outcomes.filter((outcome) => outcome === 'proved').length
    return [
      {
        name: `${ids.length} runs side by side in one server, asked ten times a second: proved`,
        value: proved,
        unit: 'runs',
        reference: ids.length,
        ratio: proved / ids.length,
        wanted: 'all of them',
        holds: proved === ids.length,
      },
      {
        name: 'turn of its event loop meanwhile, 99th percentile',
        value: late,
        unit: 'ms',
        wanted: 'under 50 ms',
        holds: late < 50,
      },
    ]
  },
}
