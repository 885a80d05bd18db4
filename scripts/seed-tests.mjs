// node scripts/seed-tests.mjs FOLDER: builds the server and its pages, and seeds the demo scenario into a folder that every
// server of the tests starts from a copy of. Unit and interface tests run alone do so by themselves.
import { spawn } from 'node:child_process'
import { mkdirSync, renameSync } from 'node:fs'
import { join } from 'node:path'
import { bin, root, run } from './need.mjs'
import { builtServer, needServer } from './server.mjs'

const folder = process.argv[2]
await needServer()
if (run(bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'web') }) !== 0) process.exit(1)

/** It has its name once it is whole. */
const begun = `${folder}.begun`
mkdirSync(begun, { recursive: true })
const child = spawn(process.execPath, [builtServer, '--demo'], {
  env: { ...process.env, PORT: '0', BENCH_WAKE_DATA: begun },
  stdio: ['ignore', 'pipe', 'inherit'],
})
let said = ''
child.stdout.on('data', (data) => {
  said += data
  if (said.includes('Bench Wake is at')) child.kill('SIGTERM')
})
const code = await new Promise((done) => child.once('exit', done))
if (!said.includes('Bench Wake is at')) {
  console.error(`The demo scenario was not seeded: ${said}`)
  process.exit(code || 1)
}
renameSync(begun, folder)
