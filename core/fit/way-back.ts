import { inSentence, type Finding } from '../kernel'
import { compareVersions } from '../unit'
import { candidates, hopOf, type Hop, type PathQuestion } from './hop'

/** PRACTICE B12: whether the original can be put back, told before the first hop. */
export function wayBack(question: PathQuestion, hops: readonly Hop[], findings: Finding[]): Hop[] | null {
  const { family, unit } = question
  const gate = hops.find(({ noWayBack }) => noWayBack !== undefined)
  if (gate) {
    findings.push({
      rule: 'way-back',
      level: 'hold',
      says: `There is no way back from ${gate.to}.`,
      because: gate.noWayBack!,
      remedy: 'Ask whoever owns the unit, and say here who agreed.',
    })
    return null
  }
  const back: Hop[] = []
  for (const id of new Set(hops.map(({ componentId }) => componentId))) {
    const component = family.components.find((each) => each.id === id)!
    const present = unit.versions[id]
    const name = inSentence(component.name)
    if (present === undefined) {
      findings.push({
        rule: 'way-back',
        level: 'note',
        says: 'Whether there is a way back is not known.',
        because: `Nobody has read which version the ${name} has.`,
      })
      return null
    }
    const last = hops.filter(({ componentId }) => componentId === id).at(-1)!
    const order = compareVersions(component.version.scheme, last.to ?? '', present)
    if (component.version.downgrade === 'refused' && order === 'newer') {
      findings.push({
        rule: 'way-back',
        level: 'note',
        says: `${present} cannot be put back: this family refuses older versions.`,
        because: `The ${name} takes no image older than its own.`,
        remedy: 'Say so to whoever owns the unit before you start.',
      })
      return null
    }
    const old = candidates(question, component).find(
      ({ identity }) => compareVersions(component.version.scheme, identity!.version!, present) === 'same',
    )
    if (!old) {
      findings.push({
        rule: 'way-back',
        level: 'note',
        says: `The way back is open, but ${present} of the ${name} is not on the shelf.`,
        because: 'The original is always wanted back by someone.',
        remedy: `Read it out of the unit before the first write, or ask the supplier for ${present}.`,
      })
      return null
    }
    back.push(hopOf(question, component, old, last.to))
  }
  findings.push({
    rule: 'way-back',
    level: 'go',
    says: `The way back is open: ${back.map(({ imageName }) => imageName).join(', ')}.`,
    because: 'The image of the present version is on the shelf, and the family takes it.',
  })
  return back.reverse()
}
