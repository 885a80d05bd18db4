import { drivenLink, type Family } from '../family'
import { inSentence, verdictOf, type Finding } from '../kernel'
import { speechText } from '../link'
import type { Gate } from './gate'
import type { KeptTrial } from './operation-trials'
import { judgeScriptTried } from './script-tried'

/**
 * Whether this program can push an image to the family at all, over the link of the job. The bench is judged all the same.
 * @param linkId the link of the job; the family's first that is driven where nothing is said.
 * @param tried what proved runs carried out of its scripted links before; left out where that does not matter: nothing is written, or
 * it is only practised.
 * @param onStandIn it goes to a stand-in.
 */
export function judgeDriven(
  family: Family,
  linkId?: string,
  tried?: readonly KeptTrial[],
  onStandIn = false,
): Gate {
  const driven = drivenLink(family, linkId)
  const byMedium = (family.links.find(({ id }) => id === linkId) ?? family.links[0])?.medium
  const others = family.links.map((link) =>
    link.protocol === 'script' ? link.name : `${link.name} (${link.protocol})`,
  )
  const findings: Finding[] = [
    driven
      ? {
          rule: 'link-driven',
          level: 'go',
          says: `The image goes over the ${inSentence(driven.name)}.`,
          because: `${speechText(driven)}.`,
        }
      : byMedium?.update
        ? {
            rule: 'link-driven',
            level: 'go',
            says: `The unit takes its files from the ${byMedium.name} by itself.`,
            because: `${byMedium.update.prompts.length} questions of the unit, about ${byMedium.update.minutes} minutes. The run leads through them.`,
          }
        : family.chipReplacement
          ? {
              rule: 'link-driven',
              level: 'go',
              says: `The image goes in with a chip in its socket: ${family.chipReplacement.length} steps by hand.`,
              because: 'The run leads through them one by one, and keeps what was done.',
            }
          : {
              rule: 'link-driven',
              level: 'note',
              says: `This version judges a ${family.name}, but does not write to it yet.`,
              because: `Its links: ${others.join(', ')}.`,
              remedy: 'Write it with the tool you have for it, then read the unit and keep the page here.',
            },
  ]
  const trial = driven && tried && judgeScriptTried(driven, tried, onStandIn)
  if (trial) findings.push(trial)
  return { id: 'link', name: 'Link', verdict: verdictOf(findings), findings, numbers: {} }
}
