import type { EntryWay, Family, FamilyLink } from './schema'

/** The links that hardware of this major revision has; all of them while it is not known, or none is said to be its own. */
export function linksOn(family: Pick<Family, 'links'>, major: number | undefined): FamilyLink[] {
  if (major === undefined) return family.links
  const own = family.links.filter(({ revisions }) => !revisions || revisions.includes(major))
  return own.length > 0 ? own : family.links
}

/** The ways into the bootloader that lead there over a link; all of them where none is said to be its own. */
export function entriesOver({ entry }: Pick<Family, 'entry'>, linkId: string): EntryWay[] {
  const own = entry.filter(({ links }) => !links || links.includes(linkId))
  return own.length > 0 ? own : entry
}

/** A family as one unit of it has it: the hardware that was read selects the links. */
export function onHardware(family: Family, major: number | undefined): Family {
  const links = linksOn(family, major)
  return links.length === family.links.length ? family : { ...family, links }
}
