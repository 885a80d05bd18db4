import { namesComponent, type Family, type FamilyLink } from '../family'
import type { Hop } from '../fit'

/**
 * The writes of a way, each with those that go into the unit in the same stay in its bootloader: one entry, one restart
 * (PRACTICE A5). Only what the family allows and the link can: the components of one release, each once; everything else is
 * a write of its own.
 * @param link null where this program drives none; a person then follows the supplier's own order.
 */
export function staysOf(
  { updates }: Pick<Family, 'updates'>,
  link: FamilyLink | null,
  hops: readonly Hop[],
): Hop[][] {
  const together = updates.oneEntry === true && link !== null && namesComponent(link)
  const stays: Hop[][] = []
  for (const hop of hops) {
    const stay = stays.at(-1)
    const joins =
      together &&
      stay !== undefined &&
      hop.to !== undefined &&
      stay.every(({ to, componentId }) => to === hop.to && componentId !== hop.componentId)
    if (joins) stay.push(hop)
    else stays.push([hop])
  }
  return stays
}
