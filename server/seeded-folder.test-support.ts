import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { needServer } from '../scripts/server.mjs'
import { readSettings } from './settings'
import { runProgram } from './program'
import { builtThreadName } from './worker/worker-thread'

/** Where the folder with the demo scenario lies that every server of the tests starts from a copy of. */
export const seededFolderName = 'BENCH_WAKE_SEEDED'

/**
 * Seeds the demo scenario once for all unit tests: it takes longer than most of them. The server is built for those that start
 * it as a process of its own: from its sources it takes three times as long.
 */
export default async function seedOnce(): Promise<() => void> {
  // Whatever a test leaves in the system's folder for what lasts a while goes with this one.
  const left = mkdtempSync(join(tmpdir(), 'bench-wake-unit-'))
  process.env.TMPDIR = left
  await needServer()
  process.env[builtThreadName] = new URL('./dist/thread.mjs', import.meta.url).href
  const goes = () => rmSync(left, { recursive: true, force: true })
  // The whole run of tests has it already.
  if (process.env[seededFolderName]) return goes
  const folder = mkdtempSync(join(tmpdir(), 'bench-wake-seed-'))
  const server = await runProgram(readSettings({ PORT: '0', BENCH_WAKE_DATA: folder }), { demo: true })
  await server.stop()
  process.env[seededFolderName] = folder
  return goes
}
