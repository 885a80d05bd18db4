import { drivenLink, type DrivenLink, type Family } from '@bench-wake/core/family'
import { Problem } from '@bench-wake/core/kernel'

/** @throws Problem `no-link` when this program does not drive that link, or none of the family's. */
export function linkOf(family: Family, linkId?: string): DrivenLink {
  const link = drivenLink(family, linkId)
  if (link) return link
  throw new Problem({
    kind: 'no-link',
    thing: family.name,
    says: 'this version does not talk to this equipment over this link',
    found:
      family.links.find(({ id }) => id === linkId)?.name ?? family.links.map(({ name }) => name).join(', '),
    remedy: 'Type or paste its page instead.',
  })
}
