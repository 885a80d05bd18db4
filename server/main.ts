import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { setFlagsFromString } from 'node:v8'
import { runProgram } from './program'
import { sentenceOf } from './sentence'
import { readSettings } from './settings'

/** The page, seen from the sources and from the server as it is built. */
const pages = ['../web/dist', '../../web/dist'].map((path) => fileURLToPath(new URL(path, import.meta.url)))
const built = pages.find((path) => existsSync(path))

// A laptop on a bench has little memory, and a program that stands open for weeks should not take it: unused memory is
// looked for when a third more is taken than was in use, not at several times as much.
setFlagsFromString('--heap-growing-percent=30')

// Database, backups and keys are for the account that runs the program.
process.umask(0o077)

try {
  const settings = readSettings(process.env)
  const { address, cutRuns, stop, open, shownPassword, restored } = await runProgram(settings, {
    demo: process.argv.includes('--demo=year') ? 'year' : process.argv.includes('--demo'),
    ...(built ? { pageFolder: built } : {}),
  })
  // Before a word is said: whoever reads the address may send a signal at once.
  let asked = 0
  // The window it was started in may be closed: what is said then reaches nobody, and that must not end a write.
  for (const stream of [process.stdout, process.stderr]) stream.on('error', () => {})
  for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP'] as const) {
    process.on(signal, () => {
      if (++asked === 1) {
        console.log('Ending at the next safe point.')
        void stop().then(() => process.exit(0))
      } else console.log('A unit is being written. Wait for it.')
    })
  }
  if (restored) console.log(restored)
  if (cutRuns.length > 0) {
    console.log(`${cutRuns.length} run(s) were cut when the program ended last time. Open them to go on.`)
  }
  if (open) {
    console.log('Others in this network can reach it, and write units from here, with the password.')
    if (settings.tls === 'none')
      console.log('Nothing is encrypted: whoever is in this network can read along, the password too.')
    if (shownPassword) console.log(`The password is shown this once: ${shownPassword}`)
  }
  console.log(`Bench Wake is at ${address}`)
} catch (error) {
  console.error(sentenceOf(error))
  process.exit(1)
}
