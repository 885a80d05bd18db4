// Installs what is missing, builds what is older than its source, seeds the demo scenario, starts.
import { spawn } from 'node:child_process'
import { existsSync, readdirSync, rmSync, statSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { bin, needPackages, root, run } from './need.mjs'

needPackages()

const built = join(root, 'web', 'dist', 'index.html')
if (!existsSync(built) || statSync(built).mtimeMs < newest(['web', 'core', 'package-lock.json'])) {
  console.log('Building the page…')
  if (run(bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'web') }) !== 0) process.exit(1)
}

if (process.argv.includes('--fresh')) {
  const folder = resolve(process.env.BENCH_WAKE_DATA ?? join(root, 'data'))
  for (const file of ['bench-wake.db', 'bench-wake.db-wal', 'bench-wake.db-shm'])
    rmSync(join(folder, file), { force: true })
  console.log('Starting over with the demo scenario.')
}

const server = spawn(process.execPath, ['--import', 'tsx', join(root, 'server', 'main.ts'), '--demo'], {
  cwd: root,
  stdio: 'inherit',
})
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal))
server.on('exit', (code) => process.exit(code ?? 0))

/** Newest change in some folders and files, ms since 1970; what is built or installed is left out. */
function newest(paths) {
  let latest = 0
  for (const path of paths) {
    const full = join(root, path)
    const { mtimeMs } = statSync(full)
    if (!statSync(full).isDirectory()) latest = Math.max(latest, mtimeMs)
    else {
      for (const entry of readdirSync(full, { withFileTypes: true })) {
        if (entry.name === 'dist' || entry.name === 'node_modules') continue
        latest = Math.max(latest, newest([join(path, entry.name)]))
      }
    }
  }
  return latest
}
