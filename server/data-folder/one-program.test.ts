import { isProblem } from '@bench-wake/core/kernel'
import { spawn } from 'node:child_process'
import { mkdirSync, symlinkSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'
import { expect, it } from 'vitest'
import { endChildren, ended, scratchFolder, tended } from '../server.test-support'
import { keepToOneProgram } from './one-program'

endChildren()

const folder = scratchFolder()
const refusedAt = async (path: string) =>
  isProblem(await keepToOneProgram(path).catch((error: unknown) => error), 'folder-in-use')

it('a database is worked by one program at a time', async () => {
  const path = join(folder, 'one.db')
  const free = await keepToOneProgram(path)
  expect(await refusedAt(path)).toBe(true)
  // Another one is no matter of this one's.
  await (
    await keepToOneProgram(join(folder, 'other.db'))
  )()
  await free()
  await (
    await keepToOneProgram(path)
  )()
})

it('by whatever link its folder is reached', async () => {
  const real = join(folder, 'real')
  const link = join(folder, 'link')
  mkdirSync(real)
  symlinkSync(real, link)
  const free = await keepToOneProgram(join(real, 'one.db'))
  expect(await refusedAt(join(link, 'one.db'))).toBe(true)
  await free()
  // And the other way round.
  const freeLink = await keepToOneProgram(join(link, 'one.db'))
  expect(await refusedAt(join(real, 'one.db'))).toBe(true)
  await freeLink()
})

it('wherever temporary files lie, and until the other process has really ended', async () => {
  const path = join(folder, 'process.db')
  const module = fileURLToPath(new URL('./one-program.ts', import.meta.url))
  const code = `import { keepToOneProgram } from ${JSON.stringify(pathToFileURL(module).href)}
    await keepToOneProgram(${JSON.stringify(path)}); console.log('held'); setInterval(() => {}, 1000)`
  const other = tended(
    spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', code], {
      env: { ...process.env, TMPDIR: scratchFolder() },
      stdio: ['ignore', 'pipe', 'inherit'],
    }),
  )
  await new Promise((held) => other.stdout!.once('data', held))
  expect(await refusedAt(path)).toBe(true)
  // Halted it is still there.
  other.kill('SIGSTOP')
  expect(await refusedAt(path)).toBe(true)
  other.kill('SIGKILL')
  await ended(other)
  await (
    await keepToOneProgram(path)
  )()
})
