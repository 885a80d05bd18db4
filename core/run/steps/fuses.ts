import { hexText, Problem } from '../../kernel'
import { fuseChanges, fuseText, wantedFuses } from '../../link'
import type { StepAct } from '../step-context'

/**
 * Fuse bytes after the memory is proved, the lock byte last: each is read, what changes is told, and one that would shut the
 * port is written only where a named person released that. What was written is read back.
 */
export const fuses: StepAct = async ({ driver, link, fuses: said = [], releases, wake, step }) => {
  if (!driver.fuses || link?.drive.speaks !== 'in-system') return
  const released = releases.some(({ rule }) => rule === 'fuse-locks-out')
  const now = await driver.fuses.read()
  const wanted = wantedFuses(link.drive, said)
  // All are looked at before the first is written.
  const changing = wanted.flatMap(({ id, value }) => {
    const { fuse, value: from } = now.find((each) => each.fuse.id === id)!
    return from === value ? [] : [{ fuse, from, value, changes: fuseChanges(fuse, from, value) }]
  })
  const shutting = changing.flatMap(({ changes }) => changes).find(({ locksOut }) => locksOut)
  if (shutting && !released) {
    throw new Problem({
      kind: 'fuse-locks-out',
      place: { at: `${shutting.fuse.name}, bit ${shutting.bit}` },
      says: 'this fuse would shut the port for good, and nobody released that',
      expected: `${shutting.name}: ${shutting.from}`,
      found: `the job wants ${shutting.to}: ${shutting.says}`,
      remedy:
        'No fuse was written. Set the bit back in the job, or have it released by name; then go on from here.',
    })
  }
  for (const { fuse, from, value, changes } of changing.sort(
    (a, b) => Number(a.fuse.locks ?? false) - Number(b.fuse.locks ?? false),
  )) {
    await wake.record({
      type: 'note',
      step,
      says: `${fuseText(fuse, from)} to ${hexText(value)}: ${changes.map(({ name, says }) => `${name}, ${says}`).join('; ')}.`,
    })
    await driver.fuses.set(fuse.id, value)
  }
  if (changing.length === 0)
    await wake.record({ type: 'note', step, says: 'The fuses are as the job wants them.' })
}
