import type { DrivenLink, OperationName } from '../family'
import type { Finding } from '../kernel'
import { calledText, operationTrials, scripted, type KeptTrial } from './operation-trials'

/** Operations by which a write changes a unit, or says that it is well. */
const writes: ReadonlySet<OperationName> = new Set(['attach', 'unlock', 'erase', 'write', 'check', 'start'])
/** What no write goes by. */
const apart: ReadonlySet<OperationName> = new Set(['live', 'read', 'dryRun'])

/**
 * LINKS: nothing looks safe that was never tried. A first write by steps that no unit was ever written by is a hold, and
 * so is one after a change of them; the cheapest trial that would lift it is named. Links that are no script have their
 * protocol, and null.
 * @param kept what proved runs carried out of the family's links, newest first.
 * @param onStandIn it goes to a stand-in, where nothing can be lost: then it is told and holds nothing.
 */
export function judgeScriptTried(
  link: DrivenLink,
  kept: readonly KeptTrial[],
  onStandIn = false,
): Finding | null {
  const own = scripted(link)
  if (!own) return null
  const rule = 'script-tried'
  const { dryRun, read } = own.drive.operations
  const cheaper = dryRun ? 'Do a dry run first' : read ? 'Read the unit out first' : 'Read the unit first'
  const spare = 'then a spare unit before this one. Who goes on says so by name.'
  const trials = operationTrials(own, kept)
  const named = (states: readonly string[], of: (name: OperationName) => boolean) =>
    trials.flatMap(({ operation, state }) => (states.includes(state) && of(operation) ? [operation] : []))
  const changed = named(['changed'], (name) => !apart.has(name))
  const lacking = named(['never', 'stand-in'], (name) => writes.has(name))
  const last = kept.find(({ linkId, on }) => linkId === link.id && on === 'unit')
  const lastWas = last && `${last.unit}, serial ${last.serial}, on ${last.day}`

  const notSo =
    changed.length > 0
      ? `Steps of this link were changed since a unit was last written by them: ${calledText(changed)}.`
      : `No unit was ever written by some steps of this link: ${calledText(lacking)}.`

  if (last && changed.length === 0 && lacking.length === 0) {
    const untried = named(['never', 'stand-in'], (name) => !apart.has(name))
    return {
      rule,
      level: 'go',
      says: 'A unit of this kind was written to its proof by these steps.',
      because: `${lastWas}.${untried.length > 0 ? ` Not carried out on a unit yet: ${calledText(untried)}.` : ''}`,
    }
  }
  if (onStandIn) {
    return {
      rule,
      level: 'note',
      says: 'This is a stand-in: it shows how the job goes, and not that a real unit talks so.',
      because: last ? notSo : 'No unit was ever written by the steps of this link.',
      remedy: 'Before the first real unit these steps hold the run.',
    }
  }
  if (last) {
    return {
      rule,
      level: 'hold',
      says: notSo,
      because: `The last was ${lastWas}.`,
      remedy: `${cheaper}; ${spare}`,
    }
  }
  const practised = kept.some(({ linkId, on }) => linkId === link.id && on === 'stand-in')
  return {
    rule,
    level: 'hold',
    says: 'No unit was ever written by the steps of this link.',
    because: practised
      ? 'On a stand-in they came to their proof; a stand-in plays what the profile says, right or wrong.'
      : 'They are as good as the manual, and as whoever wrote them down.',
    remedy: `${practised ? '' : 'Practise this job on its stand-in. '}${cheaper}; ${spare}`,
  }
}
