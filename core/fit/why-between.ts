import { compareVersions } from '../unit'
import { candidates, type Hop, type PathQuestion } from './hop'

/**
 * Why a way takes a release between although neither family nor workshop asks for every one: what the next image goes on, or a
 * release that must not be stepped over.
 * @returns null where each component is written once.
 */
export function whyBetween(question: PathQuestion, hops: readonly Hop[]): string | null {
  for (const hop of hops) {
    const own = hops.filter(({ componentId }) => componentId === hop.componentId)
    const before = own[own.indexOf(hop) - 1]
    const present = own[0]!.from
    const component = question.family.components.find(({ id }) => id === hop.componentId)
    if (!before || !component || before.to === undefined || present === undefined) continue
    const stone = question.family.updates.mandatoryVersions?.find(
      (each) =>
        each.component === component.id &&
        compareVersions(component.version.scheme, each.version, before.to!) === 'same',
    )
    if (stone) return stone.says
    const image = candidates(question, component).find(({ id }) => id === hop.imageId)
    const { requiresFrom, precursor } = image?.identity ?? {}
    if (
      requiresFrom !== undefined &&
      compareVersions(component.version.scheme, present, requiresFrom) === 'older'
    )
      return `${hop.to} goes on ${requiresFrom} or newer.`
    if (precursor !== undefined) return `${hop.to} is made for the very bytes of ${before.to}.`
  }
  return null
}
