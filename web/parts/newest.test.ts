import { expect, test } from 'vitest'
import { newest } from './newest'

/** What is asked, each answered by hand. */
function asking() {
  const asked: { answer: (says: string) => void; fail: () => void }[] = []
  const taken: string[] = []
  const ask = newest(
    () =>
      new Promise<string>((answer, reject) => asked.push({ answer, fail: () => reject(new Error('gone')) })),
    (says) => taken.push(says),
  )
  return { ask, asked, taken }
}

test('an answer that was overtaken by a later one does not count', async () => {
  const { ask, asked, taken } = asking()
  const all = [ask(), ask(), ask()]
  asked[1]!.answer('second')
  await all[1]
  asked[0]!.answer('first')
  await all[0]
  expect(taken).toEqual(['second'])
  asked[2]!.answer('third')
  await all[2]
  expect(taken).toEqual(['second', 'third'])
})

test('in their order all count, and one that fails takes none of them away', async () => {
  const { ask, asked, taken } = asking()
  const all = [ask(), ask(), ask()]
  asked[0]!.answer('first')
  await all[0]
  asked[2]!.fail()
  await expect(all[2]).rejects.toThrow('gone')
  asked[1]!.answer('second')
  await all[1]
  expect(taken).toEqual(['first', 'second'])
})
