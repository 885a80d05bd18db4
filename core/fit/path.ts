import { componentsOn, type Component, type Family } from '../family'
import { verdictOf, type Finding, type Verdict, inSentence, asSentence } from '../kernel'
import { compareVersions } from '../unit'
import { candidates, hopOf, inSequence, type Hop, type PathQuestion } from './hop'
import { whatWouldHelp } from './no-way'
import { shortestWay } from './shortest-way'
import { wayBack } from './way-back'
import { whyBetween } from './why-between'

/** A way from what is on the unit to the image that is wanted, hop by hop. */
export interface Path {
  verdict: Verdict
  findings: Finding[]
  /** Empty when there is no way, or nothing to do. */
  hops: Hop[]
  totalMs: number
  /** The way back to what is on the unit now; null where there is none. */
  rollback: Hop[] | null
}

/**
 * The shortest allowed way (PRACTICE A5, B1, B5, B12): mandatory versions and required versions are obeyed, releases are
 * skipped only where family and workshop allow it, components go in their order, weighted by predicted time. Where there
 * is no way it says what would make one.
 */
export function planPath(question: PathQuestion): Path {
  const { family, unit, wanted } = question
  const findings: Finding[] = []
  const target = family.components.find(({ id }) => id === wanted.identity?.componentId)
  const to = wanted.identity?.version
  if (!target || wanted.identity?.familyId !== family.id) return none(findings)
  if (to === undefined) return withoutVersion(question, target, findings)

  const ways = [{ component: target, hops: wayTo(question, target, to, wanted.id, findings) }]
  if (family.updates.together) {
    for (const component of componentsOn(family, unit.model)) {
      if (component.id !== target.id)
        ways.push({ component, hops: wayTo(question, component, to, undefined, findings) })
    }
  }
  if (ways.some(({ hops }) => hops === null)) return none(findings)
  // Half way through its components the one that is asked about may be done: it is not written once more for the others' sake.
  const present = unit.versions[target.id]
  const isThere = present !== undefined && compareVersions(target.version.scheme, to, present) === 'same'
  if (isThere && ways.slice(1).some(({ hops }) => hops!.length > 0)) ways.shift()
  const hops = inOrder(
    family,
    ways.flatMap(({ hops }) => hops ?? []),
  )
  const totalMs = hops.reduce((sum, { predictedMs }) => sum + predictedMs, 0)
  if (hops.length === 0) return { ...none(findings), totalMs }

  findings.push(howMany(question, hops))
  const rollback = wayBack(question, hops, findings)
  return { verdict: verdictOf(findings), findings, hops, totalMs, rollback }
}

/**
 * An image that does not say its version: one write of it, straight, since no order can be found among versions; the hold on
 * its version (version-direction) is where a person answers for it.
 */
function withoutVersion(question: PathQuestion, target: Component, findings: Finding[]): Path {
  const { family, unit, wanted } = question
  const hop = hopOf(question, target, wanted, unit.versions[target.id])
  const mandatoryVersions = (family.updates.mandatoryVersions ?? []).filter(
    ({ component }) => component === target.id,
  )
  const ordered =
    inSequence(family, question.workshopRules) || mandatoryVersions.length > 0 || family.updates.together
  findings.push({
    rule: 'path',
    level: ordered ? 'hold' : 'note',
    says: 'Whether releases lie between is not known: the image does not say its version.',
    because: ordered
      ? 'This family takes its releases in order, or its components together.'
      : 'It is written as it is, in one step.',
    remedy: 'Ask the supplier which version this is.',
    numbers: { hops: 1, writes: 1 },
  })
  const rollback = wayBack(question, [hop], findings)
  return { verdict: verdictOf(findings), findings, hops: [hop], totalMs: hop.predictedMs, rollback }
}

const none = (findings: Finding[]): Path => ({
  verdict: verdictOf(findings),
  findings,
  hops: [],
  totalMs: 0,
  rollback: null,
})

/** The hops of one component; null, with a finding, when there is no way; none when it is there already. */
function wayTo(
  question: PathQuestion,
  component: Component,
  version: string,
  wantedId: string | undefined,
  findings: Finding[],
): Hop[] | null {
  const { family, unit, wanted } = question
  const { scheme, downgrade } = component.version
  const present = unit.versions[component.id]
  const images = candidates(question, component)
  const targets = images.filter(({ id, identity }) =>
    wantedId === undefined
      ? compareVersions(scheme, identity!.version!, version) === 'same'
      : id === wantedId,
  )
  const name = inSentence(component.name)
  if (targets.length === 0) {
    // The wanted image itself does not belong on the unit: its own findings say why.
    if (wantedId === undefined) {
      findings.push({
        rule: 'path',
        level: 'stop',
        says: `There is no way: the image of ${version} for the ${name} is missing.`,
        because: `All components of a ${family.name} go to one version, in order.`,
        remedy: `Ask the supplier for ${version} of the ${name} and put it on the shelf.`,
      })
    }
    return null
  }
  if (present === undefined) {
    const [image] = targets
    if (question.family.updates.path === 'every-release' && image!.identity?.requiresFrom !== undefined) {
      findings.push({
        rule: 'path',
        level: 'hold',
        says: `The way is not known: nobody has read which version the ${name} has.`,
        because: `This family takes every release in order, and ${version} goes on ${image!.identity.requiresFrom} or newer.`,
        remedy: 'Read the unit. If its firmware is gone, write the release it had.',
      })
    }
    return [hopOf(question, component, image!, undefined)]
  }
  const order = compareVersions(scheme, version, present)
  if (order === 'same' && wantedId === undefined) return []
  if (order !== 'newer') {
    // Older, same again, or not comparable: one step, which the direction rule weighs.
    if (order === 'older' && downgrade === 'refused') return null
    return [hopOf(question, component, targets[0]!, present)]
  }

  const found = shortestWay(question, component, images, present, targets)
  if (found) return found
  findings.push(whatWouldHelp(question, component, images, present, version, wanted.name))
  return null
}

/** Release by release, and within a release the components in the family's order. */
function inOrder(family: Family, hops: readonly Hop[]): Hop[] {
  const rank = (hop: Hop) => family.components.findIndex(({ id }) => id === hop.componentId)
  const scheme = family.components[0]!.version.scheme
  return [...hops].sort((a, b) => {
    const order = compareVersions(scheme, a.to ?? '', b.to ?? '')
    return order === 'older' ? -1 : order === 'newer' ? 1 : rank(a) - rank(b)
  })
}

function howMany(question: PathQuestion, hops: readonly Hop[]): Finding {
  const { family, workshopRules } = question
  const releases = [...new Set(hops.map(({ to }) => to))]
  const because = !inSequence(family, workshopRules)
    ? (whyBetween(question, hops) ??
      'Straight to the wanted release: neither the family nor the workshop rules ask for those between.')
    : family.updates.path === 'every-release'
      ? 'This family takes every release in order.'
      : 'Workshop rule: every release in order; the family leaves it open.'
  const numbers = { hops: releases.length, writes: hops.length }
  if (hops.length === 1) return { rule: 'path', level: 'go', says: 'One step leads there.', because, numbers }
  const writes = hops.length > releases.length ? `, ${hops.length} writes` : ''
  return {
    rule: 'path',
    level: 'note',
    says: `${releases.length === 1 ? 'One step' : `${asSentence(counted(releases.length))} steps`}${writes}: ${releases.join(', then ')}.`,
    because,
    numbers,
  }
}

const counted = (count: number) =>
  ['no', 'one', 'two', 'three', 'four', 'five', 'six'][count] ?? String(count)
