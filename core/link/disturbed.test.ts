import { describe, expect, it } from 'vitest'
import { disturbedWrite, opponents } from './disturbed.test-support'

const turn = () => new Promise<void>((done) => setImmediate(done))

/*
 * A write with its line disturbed: it ends, with a Problem or with the image in the memory; never with a success that is
 * none. The benchmark does the same ten thousand times for each.
 */
describe('a disturbed write', () => {
  it.each(opponents)('over %s ends true', async (name) => {
    const opponent = opponents.find((each) => each[0] === name)!
    let [made, proved] = [0, 0]
    for (let seed = 1; seed <= 40; seed++) {
      const outcome = await disturbedWrite(opponent, { seed, chance: 0.05, max: 4 }, turn)
      made += outcome.made
      if (outcome.ended === 'proved') proved++
    }
    expect(made).toBeGreaterThan(20)
    // Most small disturbances are mended by the protocol itself.
    expect(proved).toBeGreaterThan(5)
  })
})
