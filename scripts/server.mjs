import { build } from 'esbuild'
import { existsSync, readdirSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { bin, root, run } from './need.mjs'

const folder = join(root, 'server', 'dist')
/** The server as one file, which starts in a third of the time that its sources take. */
export const builtServer = join(folder, 'main.mjs')
/** The command that brings a backup back, built beside it. */
export const builtRestore = join(folder, 'restore.mjs')

/** Packages that bring a program for this computer with them. */
const compiledHere = ['@libsql/client', '@node-rs/argon2', 'serialport', 'usb']

/** Builds the server when it is older than its sources. */
export async function needServer() {
  if (
    existsSync(builtServer) &&
    statSync(builtServer).mtimeMs > newest(['core', 'demo', 'standins', 'server', 'package-lock.json'])
  )
    return
  rmSync(folder, { recursive: true, force: true })
  await build({
    // The thread beside the server is a program of its own, and so is what brings a backup back.
    entryPoints: ['main.ts', 'worker/thread.ts', 'restore.ts'].map((name) => join(root, 'server', name)),
    entryNames: '[name]',
    outdir: folder,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    // What is compiled for this computer stays where it is; all else is in the file, and is not looked for at each start.
    external: compiledHere,
    // Packages of the older form ask for parts of Node as they are read.
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    minifyWhitespace: true,
    minifySyntax: true,
    sourcemap: 'linked',
    logLevel: 'warning',
  })
}

/** Builds the pages when they are older than their sources; where that fails, nothing goes on. */
export function needPages() {
  const built = join(root, 'web', 'dist', 'index.html')
  if (existsSync(built) && statSync(built).mtimeMs > newest(['web', 'core', 'package-lock.json'])) return
  console.log('Building the page…')
  if (run(bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'web') }) !== 0) process.exit(1)
}

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
