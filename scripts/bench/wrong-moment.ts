import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { runProgram } from '../../server/program'
import { readSettings } from '../../server/settings'
import { runWasOver, WrongMoments, wrongMoments } from '../../server/wrong-moment.test-support'
import type { Bench } from './figure'

const count = Number(process.env['BENCH_WAKE_WRONG_MOMENTS'] ?? 300)

/** Whole runs over a pseudo-terminal, each with the program killed, halted, its disk filled, locked or its clock set. */
export const wrongMoment: Bench = {
  name: 'wrong-moment',
  async measure() {
    const seed = mkdtempSync(join(tmpdir(), 'bench-wake-wrong-'))
    const seeding = await runProgram(readSettings({ PORT: '0', BENCH_WAKE_DATA: seed }), { demo: true })
    await seeding.stop()
    const folder = `${seed}-run`
    cpSync(seed, folder, { recursive: true })
    const moments = new WrongMoments(folder)
    await moments.begin()
    const base = Math.floor(Math.random() * 1e9)
    let good = 0
    try {
      for (let turn = 0; turn < count; turn++) {
        const moment = wrongMoments[turn % wrongMoments.length]!
        let wrong = await moments.run(moment, base + turn)
        // A run that was over before anything went wrong tells nothing; another one takes its turn.
        for (let again = 1; wrong.length === 1 && wrong[0] === runWasOver && again < 4; again++)
          wrong = await moments.run(moment, base + turn + again * count)
        if (wrong.length === 0) good++
        else console.log(`  ${moment}, seed ${base + turn}: ${wrong.join('; ')}`)
        if ((turn + 1) % 10 === 0) process.stderr.write(`  ${turn + 1} of ${count} runs, ${good} as wanted\n`)
      }
    } finally {
      await moments.end()
      rmSync(seed, { recursive: true, force: true })
      rmSync(folder, { recursive: true, force: true })
    }
    return [
      {
        name: `${count} runs with the program killed, halted, its disk full, locked or its clock set: no event lost, each proved`,
        value: good,
        unit: 'runs',
        reference: count,
        ratio: good / count,
        wanted: 'all of them',
        holds: good === count,
      },
    ]
  },
}
