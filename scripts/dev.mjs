// The server and the page's builder side by side, both following changes of the source.
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { bin, needPackages, root } from './need.mjs'

needPackages()
const parts = [
  spawn(process.execPath, [bin('tsx'), 'watch', 'server/main.ts', '--demo'], { cwd: root, stdio: 'inherit' }),
  spawn(process.execPath, [bin('vite')], { cwd: join(root, 'web'), stdio: 'inherit' }),
]
const end = () => parts.forEach((part) => part.kill())
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, end)
for (const part of parts) part.on('exit', end)
