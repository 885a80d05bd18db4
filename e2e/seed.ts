import { rmSync } from 'node:fs'
import { needServer } from '../scripts/server.mjs'
import { Program, seededFolder } from './program'

/** Seeds the demo scenario once, before the first test; every program of a test starts from a copy. */
export default async function seed(): Promise<() => void> {
  await needServer()
  // The whole run of tests has it already.
  if (process.env[seededFolder]) return () => {}
  const program = new Program('')
  await program.start()
  await program.end('SIGTERM')
  process.env[seededFolder] = program.folder
  return () => rmSync(program.folder, { recursive: true, force: true })
}
