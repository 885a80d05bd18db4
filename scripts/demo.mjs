// Installs what is missing, builds what is older than its source, seeds the demo scenario, starts.
import { spawn } from 'node:child_process'
import { rmSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { needPackages, root } from './need.mjs'

needPackages()
// What is installed just now can be asked for only now.
const { builtServer, needPages, needServer } = await import('./server.mjs')

needPages()
await needServer()

if (process.argv.includes('--fresh')) {
  const folder = resolve(process.env.BENCH_WAKE_DATA ?? join(root, 'data'))
  for (const file of ['bench-wake.db', 'bench-wake.db-wal', 'bench-wake.db-shm'])
    rmSync(join(folder, file), { force: true })
  console.log('Starting over with the demo scenario.')
}

const server = spawn(process.execPath, [builtServer, '--demo=year'], {
  cwd: root,
  stdio: 'inherit',
})
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', (code) => process.exit(code ?? 0))
