import { describe, expect, it } from 'vitest'
import { generatedWrite } from './generated.test-support'

const turn = () => new Promise<void>((done) => setImmediate(done))

/*
 * Kinds of equipment that nobody made, each taught by data and played by the stand-in of its own profile: a write ends with the
 * image in the memory or with a Problem, never with a proof that is none. The benchmark does ten thousand.
 */
describe('a kind that is drawn by a seed', () => {
  it('is written and proved where nothing disturbs it', async () => {
    for (let seed = 1; seed <= 40; seed++) {
      const { ended } = await generatedWrite(seed, { seed, chance: 0, max: 0 }, turn)
      expect(ended, `seed ${seed}`).toBe('proved')
    }
  })
  it('ends true where its line is disturbed', async () => {
    let [made, proved] = [0, 0]
    for (let seed = 1; seed <= 60; seed++) {
      const outcome = await generatedWrite(seed, { seed, chance: 0.02, max: 4 }, turn)
      made += outcome.made
      if (outcome.ended === 'proved') proved++
    }
    expect(made).toBeGreaterThan(30)
    expect(proved).toBeGreaterThan(5)
  })
})
