import { isProblem } from '@bench-wake/core/kernel'
import { expect, it } from 'vitest'
import { keepToOneProgram } from './one-program'
import { scratchFolder } from './server.test-support'

const [folder, other] = [scratchFolder(), scratchFolder()]

it('a data folder is worked by one program at a time', async () => {
  const free = await keepToOneProgram(folder)
  const second = await keepToOneProgram(folder).catch((error: unknown) => error)
  expect(isProblem(second, 'folder-in-use')).toBe(true)
  // Another folder is no matter of this one's.
  const freeOther = await keepToOneProgram(other)
  await freeOther()
  await free()
  const third = await keepToOneProgram(folder)
  await third()
})
