import { describe, expect, it } from 'vitest'
import { demoFamily, demoShelf, demoUnits, demoYear, taughtShelf, demoImages } from '.'

/* The past year of the demo, as it is asked of a logbook: sixty runs and more, failures, retries, cuts and several people. */
describe('the past year of the demo', () => {
  const jobs = demoYear()
  it('is the same for the same seed, and another for another', () => {
    expect(demoYear()).toEqual(jobs)
    expect(demoYear(7)).not.toEqual(jobs)
  })
  it('has more than sixty jobs, eldest first, each on a unit of its own', () => {
    expect(jobs.length).toBeGreaterThanOrEqual(60)
    const days = jobs.map(({ daysAgo }) => daysAgo)
    expect(days).toEqual([...days].sort((a, b) => b - a))
    expect(days[0]).toBeLessThan(365)
    expect(days.at(-1)).toBeGreaterThan(7)
    expect(days[0]! - days.at(-1)!).toBeGreaterThan(300)
    const ids = [...jobs.map(({ unit }) => unit.id), ...demoUnits.map(({ id }) => id)]
    expect(new Set(ids).size).toBe(ids.length)
    const serials = [...jobs.map(({ unit }) => unit.serial), ...demoUnits.map(({ serial }) => serial)]
    expect(new Set(serials).size).toBe(serials.length)
  })
  it('knows cuts, blocks sent again, units that were not brought home, and several people', () => {
    const count = (which: (job: (typeof jobs)[number]) => boolean) => jobs.filter(which).length
    expect(count(({ legs }) => legs.length > 1)).toBeGreaterThan(4)
    expect(count(({ legs }) => legs.some(({ flippedBlocks }) => flippedBlocks))).toBeGreaterThan(4)
    expect(count(({ legs }) => legs.at(-1)!.cutAt !== undefined)).toBeGreaterThan(1)
    expect(new Set(jobs.map(({ by }) => by)).size).toBeGreaterThan(3)
    expect(new Set(jobs.map(({ unit }) => unit.familyId)).size).toBeGreaterThan(3)
    for (const { legs } of jobs)
      for (const { cutAt } of legs) if (cutAt !== undefined) expect(cutAt > 0 && cutAt < 1).toBe(true)
  })
  it('writes images that are on the shelf, into units whose page says their own serial number', () => {
    const names = new Set([...demoImages, ...demoShelf(), ...taughtShelf()].map(({ name }) => name))
    for (const { image, unit } of jobs) {
      // A file of an archive has its own name.
      expect(names.has(image) || image === 'RADIO.BIN').toBe(true)
      expect(demoFamily(unit.familyId).id).toBe(unit.familyId)
      for (const { lines } of unit.pages) expect(lines['serial']).toBe(unit.serial)
    }
  })
})
