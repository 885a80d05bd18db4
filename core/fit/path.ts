import { componentsOn, type Component, type Family } from '../family'
import { verdictOf, type Finding, type Verdict, inSentence } from '../kernel'
import { compareVersions, type UnitFacts, type VersionOrder, type VersionScheme } from '../unit'
import type { HousePolicy } from './house'
import { worstOf } from './judge-fit'
import type { FitImage, UnitAnswers } from './question'
import { standingRules } from './rules'
import { precursorDigest } from './rules/precursor-digest'

/** An image on the shelf, as the search for a way sees it. */
export interface ShelfEntry extends FitImage {
  id: string
  /** SHA-256 of what it says, by which a later image may ask for it. */
  contentSha256: string
}

export interface PathQuestion {
  family: Family
  unit: UnitFacts
  answers?: UnitAnswers
  shelf: readonly ShelfEntry[]
  /** The image that is wanted on its component in the end. */
  wanted: ShelfEntry
  house: HousePolicy
  /** Predicted time of one write, ms. */
  hopMs(component: Component, image: ShelfEntry): number
}

/** One write on the way from what is on the unit to what is wanted. */
export interface Hop {
  componentId: string
  imageId: string
  imageName: string
  /** Version before it; absent when not known. */
  from?: string
  to?: string
  predictedMs: number
  /** Why nothing older can be put back behind this hop. */
  noWayBack?: string
}

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
 * The shortest allowed way (PRACTICE A5, B1, B5, B12): stepping stones and required versions are obeyed, releases are
 * skipped only where family and house allow it, components go in their order, weighted by predicted time. Where there
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
  const stones = (family.updates.stones ?? []).filter(({ component }) => component === target.id)
  const ordered = inSequence(family, question.house) || stones.length > 0 || family.updates.together
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
    if (question.family.updates.hops === 'every-release' && image!.identity?.requiresFrom !== undefined) {
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

  const found = shortest(question, component, images, present, targets)
  if (found) return found
  findings.push(whatWouldHelp(question, component, images, present, version, wanted.name))
  return null
}

/** Candidates by question and component: both the way there and the way back ask for them. */
const judged = new WeakMap<PathQuestion, Map<string, ShelfEntry[]>>()

/** Production images of the component that belong on the unit, with the wanted one whatever its release. */
function candidates(question: PathQuestion, component: Component): ShelfEntry[] {
  const { family, unit, answers, shelf, wanted } = question
  const known = judged.get(question) ?? new Map<string, ShelfEntry[]>()
  judged.set(question, known)
  const before = known.get(component.id)
  if (before) return before
  const all = shelf.some(({ id }) => id === wanted.id) ? shelf : [...shelf, wanted]
  const found = all.filter((image) => {
    if (image.identity?.familyId !== family.id || image.identity.componentId !== component.id) return false
    if (image.identity.version === undefined) return false
    if (image.id !== wanted.id && (image.identity.release ?? 'production') !== 'production') return false
    const asked = { family, component, unit, image, ...(answers ? { answers } : {}) }
    return worstOf(asked, standingRules).level !== 'stop'
  })
  known.set(component.id, found)
  return found
}

/** Dijkstra over versions: few candidates, so the nearest is found by looking through them. */
function shortest(
  question: PathQuestion,
  component: Component,
  images: readonly ShelfEntry[],
  present: string,
  targets: readonly ShelfEntry[],
): Hop[] | null {
  interface Node {
    image: ShelfEntry | null
    version: string
    digest: string | undefined
    cost: number
    hops: Hop[]
  }
  const order = orderTable(component.version.scheme)
  const open: Node[] = [
    { image: null, version: present, digest: question.unit.digests?.[component.id], cost: 0, hops: [] },
  ]
  const closed = new Set<string>()
  while (open.length > 0) {
    open.sort((a, b) => a.cost - b.cost || a.hops.length - b.hops.length)
    const node = open.shift()!
    const key = node.image?.id ?? 'unit'
    if (closed.has(key)) continue
    closed.add(key)
    if (node.image && targets.includes(node.image)) return node.hops
    for (const image of images) {
      if (
        closed.has(image.id) ||
        !mayFollow(question, component, images, node.version, node.digest, image, order)
      )
        continue
      const hop = hopOf(question, component, image, node.version)
      open.push({
        image,
        version: image.identity!.version!,
        digest: image.contentSha256,
        cost: node.cost + hop.predictedMs,
        hops: [...node.hops, hop],
      })
    }
  }
  return null
}

/** Whether an image may be put on a version: newer, within its required range, nothing skipped that must not be. */
function mayFollow(
  { family, house }: PathQuestion,
  component: Component,
  images: readonly ShelfEntry[],
  from: string,
  digest: string | undefined,
  image: ShelfEntry,
  order: ReturnType<typeof orderTable>,
): boolean {
  const { version, requiresFrom, requiresBelow } = image.identity!
  if (version === undefined || order(version, from) !== 'newer') return false
  if (requiresFrom !== undefined && order(from, requiresFrom) === 'older') return false
  if (requiresBelow !== undefined && order(from, requiresBelow) !== 'older') return false
  const precursor = precursorDigest.judge({
    family,
    component,
    unit: { versions: {}, ...(digest === undefined ? {} : { digests: { [component.id]: digest } }) },
    image,
  })
  if (precursor?.level === 'stop') return false
  const between = (each: string) => order(each, from) === 'newer' && order(each, version) === 'older'
  if (
    (family.updates.stones ?? []).some((stone) => stone.component === component.id && between(stone.version))
  )
    return false
  if (!inSequence(family, house)) return true
  return !images.some(
    ({ identity }) => (identity!.release ?? 'production') === 'production' && between(identity!.version!),
  )
}

/** Remembers orders of versions: the search asks for the same ones many times. */
function orderTable(scheme: VersionScheme) {
  const known = new Map<string, Map<string, VersionOrder>>()
  return (first: string, second: string): VersionOrder => {
    let row = known.get(first)
    if (!row) known.set(first, (row = new Map()))
    let order = row.get(second)
    if (order === undefined) row.set(second, (order = compareVersions(scheme, first, second)))
    return order
  }
}

/** PRACTICE B5: the family's own rule wins; the house rule is the default. */
export function inSequence(family: Family, house: HousePolicy): boolean {
  const { hops } = family.updates
  return hops === 'every-release' || (hops === 'house' && house.hops === 'sequential')
}

function hopOf(
  question: PathQuestion,
  component: Component,
  image: ShelfEntry,
  from: string | undefined,
): Hop {
  const to = image.identity?.version
  const { scheme } = component.version
  const gate = (question.family.updates.noWayBack ?? []).find(
    ({ component: id, version }) =>
      id === component.id &&
      to !== undefined &&
      atLeast(scheme, to, version) &&
      (from === undefined || compareVersions(scheme, from, version) === 'older'),
  )
  return {
    componentId: component.id,
    imageId: image.id,
    imageName: image.name,
    ...(from === undefined ? {} : { from }),
    ...(to === undefined ? {} : { to }),
    predictedMs: Math.round(question.hopMs(component, image)),
    ...(gate ? { noWayBack: gate.says } : {}),
  }
}

const atLeast = (scheme: VersionScheme, version: string, least: string) =>
  ['same', 'newer'].includes(compareVersions(scheme, version, least))

/** Release by release, and within a release the components in the family's order. */
function inOrder(family: Family, hops: readonly Hop[]): Hop[] {
  const rank = (hop: Hop) => family.components.findIndex(({ id }) => id === hop.componentId)
  const scheme = family.components[0]!.version.scheme
  return [...hops].sort((a, b) => {
    const order = compareVersions(scheme, a.to ?? '', b.to ?? '')
    return order === 'older' ? -1 : order === 'newer' ? 1 : rank(a) - rank(b)
  })
}

function howMany({ family, house }: PathQuestion, hops: readonly Hop[]): Finding {
  const releases = [...new Set(hops.map(({ to }) => to))]
  const because = !inSequence(family, house)
    ? 'Straight to the wanted release: neither family nor house asks for those between.'
    : family.updates.hops === 'every-release'
      ? 'This family takes every release in order.'
      : 'The house installs every release in order; the family leaves it open.'
  const numbers = { hops: releases.length, writes: hops.length }
  if (hops.length === 1) return { rule: 'path', level: 'go', says: 'One hop leads there.', because, numbers }
  const writes = hops.length > releases.length ? `, ${hops.length} writes` : ''
  return {
    rule: 'path',
    level: 'note',
    says: `${releases.length === 1 ? 'One hop' : `${capital(counted(releases.length))} hops`}${writes}: ${releases.join(', then ')}.`,
    because,
    numbers,
  }
}

const counted = (count: number) =>
  ['no', 'one', 'two', 'three', 'four', 'five', 'six'][count] ?? String(count)

/** PRACTICE B12: whether the original can be put back, told before the first hop. */
function wayBack(question: PathQuestion, hops: readonly Hop[], findings: Finding[]): Hop[] | null {
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

/** What is missing on the shelf for a way to exist. */
function whatWouldHelp(
  { family, house }: PathQuestion,
  component: Component,
  images: readonly ShelfEntry[],
  present: string,
  version: string,
  wantedName: string,
): Finding {
  const { scheme } = component.version
  const wanted = images.find(({ name }) => name === wantedName)?.identity
  const stone = (family.updates.stones ?? []).find(
    (each) =>
      each.component === component.id &&
      compareVersions(scheme, each.version, present) === 'newer' &&
      compareVersions(scheme, each.version, version) === 'older' &&
      !images.some(({ identity }) => compareVersions(scheme, identity!.version!, each.version) === 'same'),
  )
  if (stone) {
    return {
      rule: 'path',
      level: 'stop',
      says: `There is no way from ${present} to ${version} without ${stone.version}.`,
      because: stone.says,
      remedy: `Put the image of ${stone.version} on the shelf.`,
    }
  }
  if (
    wanted?.requiresFrom !== undefined &&
    compareVersions(scheme, present, wanted.requiresFrom) === 'older'
  ) {
    return {
      rule: 'path',
      level: 'stop',
      says: `There is no way from ${present} to ${version}.`,
      because: `${version} goes on ${wanted.requiresFrom} or newer, and no image on the shelf leads there.`,
      remedy: `Put an image on the shelf that takes ${present} to ${wanted.requiresFrom} or newer.`,
    }
  }
  return {
    rule: 'path',
    level: 'stop',
    says: `There is no way from ${present} to ${version} with what is on the shelf.`,
    because: inSequence(family, house)
      ? 'Every release in between has to be installed, and one of them cannot be put on this unit.'
      : 'No image leads from the one to the other.',
    remedy: 'Ask the supplier how a unit of this version is brought up.',
  }
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)
