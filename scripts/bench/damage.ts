import { spawn } from 'node:child_process'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { fileURLToPath } from 'node:url'
import type { Bench } from './figure'
import { startProgram } from './started'

const seeds = Number(process.env['SEEDS'] ?? 2000)
const script = fileURLToPath(new URL('./damage-seeds.ts', import.meta.url))

/** What became of one seed. */
export interface Seen {
  seed: number
  /** Bits that were flipped, and in which file. */
  flipped: string
  result: 'started' | 'refused'
  /** What is wrong with that; empty as it should be. */
  wrong: string[]
}

/** A data folder with its last writes still in the write-ahead log, as a crash leaves it. */
async function crashed(): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'bench-wake-damage-'))
  const { child, address } = await startProgram(folder)
  await fetch(`${address}/api/units`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ familyId: 'fog-signal', name: 'In the log', place: 'Bench', serial: 'FS3-90001' }),
  })
  child.kill('SIGKILL')
  await new Promise((done) => child.once('exit', done))
  return folder
}

/** Seeds from one on, every `step`-th, in processes that are started again when one ends. */
async function walk(base: string, first: number, step: number, told: (seen: Seen) => void): Promise<void> {
  let next = first
  while (next < seeds) {
    const child = spawn(
      process.execPath,
      ['--import', 'tsx', script, base, String(next), String(step), String(seeds)],
      {
        stdio: ['ignore', 'pipe', 'ignore'],
      },
    )
    const lines = createInterface({ input: child.stdout })
    const ended = new Promise<number | null>((done) => child.once('exit', done))
    let begun = 'nothing'
    for await (const line of lines) {
      if (line.startsWith('begin ')) begun = line
      if (!line.startsWith('{')) continue
      const seen = JSON.parse(line) as Seen
      told(seen)
      next = seen.seed + step
    }
    if ((await ended) === 0) return
    told({ seed: next, flipped: begun, result: 'refused', wrong: ['the process ended'] })
    next += step
  }
}

/** Bits flipped anywhere in a copied database: it starts or refuses, and never shows damage as proof. */
export const damage: Bench = {
  name: 'damage',
  async measure() {
    const base = await crashed()
    const all: Seen[] = []
    const told = (seen: Seen) => {
      all.push(seen)
      if (seen.wrong.length > 0)
        console.log(`  seed ${seen.seed} (${seen.flipped}): ${seen.wrong.join('; ')}`)
      if (all.length % 100 === 0) process.stderr.write(`  ${all.length} of ${seeds}\n`)
    }
    const copies = [0, 1].map((at) => `${base}-${at}`)
    for (const copy of copies) cpSync(base, copy, { recursive: true })
    await Promise.all(copies.map((copy, at) => walk(copy, at, copies.length, told)))
    for (const folder of [base, ...copies]) rmSync(folder, { recursive: true, force: true })
    const good = all.filter(({ wrong }) => wrong.length === 0).length
    const started = all.filter(({ result }) => result === 'started').length
    return [
      {
        name: `${all.length} databases with flipped bits, ${started} of them opened: none crashed, none showed damage as proof, no whole row lost`,
        value: good,
        unit: 'databases',
        reference: all.length,
        ratio: good / all.length,
        wanted: 'all of them',
        holds: good === all.length,
      },
    ]
  },
}
