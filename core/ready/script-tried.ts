import type { DrivenLink } from '../family'
import type { Finding } from '../kernel'

/** Where the script of a link was carried out to its proof before. */
export type ScriptTried =
  /** Nowhere, or on a stand-in alone, which is no proof that a real unit talks so. */
  | { on: 'nothing' | 'stand-in' }
  /** On a unit, by the very steps that the profile has now, or by others. */
  | { on: 'unit'; unit: string; serial: string; day: string; sameSteps: boolean }

/**
 * LINKS: nothing looks safe that was never tried. A first write by steps that no unit was ever written by is a hold, and
 * so is one after a change of them; the cheapest trial that would lift it is named. Links that are no script have their
 * protocol, and null.
 * @param onStandIn it goes to a stand-in, where nothing can be lost: then it is told and holds nothing.
 */
export function judgeScriptTried(link: DrivenLink, tried: ScriptTried, onStandIn = false): Finding | null {
  if (link.drive.speaks !== 'script') return null
  const rule = 'script-tried'
  const { dryRun, read } = link.drive.operations
  const cheaper = dryRun ? 'Do a dry run first' : read ? 'Read the unit out first' : 'Read the unit first'
  if (tried.on === 'unit' && tried.sameSteps) {
    return {
      rule,
      level: 'go',
      says: 'A unit of this kind was written to its proof by these steps.',
      because: `${tried.unit}, serial ${tried.serial}, on ${tried.day}.`,
    }
  }
  if (onStandIn) {
    return {
      rule,
      level: 'note',
      says: 'This is a stand-in: it shows how the job goes, and not that a real unit talks so.',
      because:
        tried.on === 'unit'
          ? 'The steps of this link were changed since a unit was last written by them.'
          : 'No unit was ever written by the steps of this link.',
      remedy: 'Before the first real unit these steps hold the run.',
    }
  }
  if (tried.on === 'unit') {
    return {
      rule,
      level: 'hold',
      says: 'The steps of this link were changed since a unit was last written by them.',
      because: `The last was ${tried.unit}, serial ${tried.serial}, on ${tried.day}.`,
      remedy: `${cheaper}; then a spare unit before this one. Who goes on says so by name.`,
    }
  }
  return {
    rule,
    level: 'hold',
    says: 'No unit was ever written by the steps of this link.',
    because:
      tried.on === 'stand-in'
        ? 'On a stand-in they came to their proof; a stand-in plays what the profile says, right or wrong.'
        : 'They are as good as the manual, and as whoever wrote them down.',
    remedy:
      tried.on === 'stand-in'
        ? `${cheaper}; then a spare unit before this one. Who goes on says so by name.`
        : `Practise this job on its stand-in. ${cheaper}; then a spare unit before this one. Who goes on says so by name.`,
  }
}
