import { drivenLink, type Family } from '../family'
import { verdictOf, type Finding, inSentence } from '../kernel'
import type { Gate } from './gate'

/** Whether this program can push an image to the family at all, over one of its links. The bench is judged all the same. */
export function judgeDriven(family: Family): Gate {
  const driven = drivenLink(family)
  const others = family.links.map((link) =>
    link.kind === 'serial' ? link.name : `${link.name} (${link.protocol})`,
  )
  const findings: Finding[] = [
    driven
      ? {
          rule: 'link-driven',
          level: 'go',
          says: `The image goes over the ${inSentence(driven.name)}.`,
          because: `${driven.loader.protocol.toUpperCase()} at ${driven.settings.baudRate} baud.`,
        }
      : {
          rule: 'link-driven',
          level: 'note',
          says: `This version judges a ${family.name}, but does not write to it yet.`,
          because: `Its links: ${others.join(', ')}.`,
          remedy: 'Write it with the tool you have for it, then read the unit and keep the page here.',
        },
  ]
  return { id: 'link', name: 'Link', verdict: verdictOf(findings), findings, numbers: {} }
}
