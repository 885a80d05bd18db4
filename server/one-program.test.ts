import { isProblem } from '@bench-wake/core/kernel'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { keepToOneProgram } from './one-program'

it('a data folder is worked by one program at a time', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'bench-wake-one-'))
  const free = await keepToOneProgram(folder)
  const second = await keepToOneProgram(folder).catch((error: unknown) => error)
  expect(isProblem(second, 'folder-in-use')).toBe(true)
  // Another folder is no matter of this one's.
  const other = await keepToOneProgram(mkdtempSync(join(tmpdir(), 'bench-wake-one-')))
  await other()
  await free()
  const third = await keepToOneProgram(folder)
  await third()
})
