import type { Family } from '@bench-wake/core/family'
import { isProblem, Problem, type Clock } from '@bench-wake/core/kernel'
import type { LinkDriver } from '@bench-wake/core/link'

/** An act of the program within an entry. */
export interface EntryActAsked {
  way: string
  act: string
}

/**
 * Does over the link what an entry asks of the program, and resolves when it was done.
 * @throws Problem `no-entry` where no command reaches the firmware, and whatever the link says against it.
 */
export async function doEntryAct(
  driver: LinkDriver,
  clock: Clock,
  way: Family['entry'][number],
): Promise<{ heard?: string }> {
  if (way.kind === 'command') {
    if (!driver.enter) {
      throw new Problem({
        kind: 'no-entry',
        thing: way.name,
        says: 'over this link no command reaches the running firmware',
        remedy: 'Take another way into the bootloader, or the link that the command goes over.',
      })
    }
    await driver.enter(way.send)
    // The unit has left its firmware when it has had its time to.
    await clock.sleep(way.settleMs)
    return {}
  }
  // A loader that is started first only asks and waits: a silence is what it is to hear until the unit comes.
  if (way.script?.kind === 'loader-first' || way.script?.kind === 'loader-then-off') {
    try {
      const { text } = await driver.probeBootloader()
      return text ? { heard: text } : {}
    } catch (error) {
      // Noise is no loader yet either; a port that is gone is another matter.
      if (!isProblem(error) || error.facts.kind.startsWith('port-')) throw error
      return { heard: error.facts.says }
    }
  }
  await driver.loader.attach()
  return {}
}
