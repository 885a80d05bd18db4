import { afterAll, beforeAll, expect, it } from 'vitest'
import { endChildren, seededFolder, tended } from './server.test-support'
import { WrongMoments, type WrongMoment } from './wrong-moment.test-support'

/* A small set by one seed; `npm run bench -- --only wrong-moment` takes three hundred at random. */
endChildren()
const moments = new WrongMoments(seededFolder(), tended, { halt: 2000, lock: 2000 })
beforeAll(() => moments.begin())
afterAll(() => moments.end())

// A lock is driven in journal.test.ts as well, where the unit is near.
it.each<[WrongMoment, number]>([
  ['killed', 11],
  ['disk full', 12],
  ['clock set', 13],
])('%s in the middle of a run: no event is lost, and the run goes on to its proof', async (moment, seed) => {
  expect(await moments.run(moment, seed)).toEqual([])
})
