import type { Component, Family } from '../family'
import { compareVersions, type UnitFacts, type VersionScheme } from '../unit'
import type { WorkshopRules } from './workshop-rules'
import { worstOf } from './judge-fit'
import type { FitImage, UnitAnswers } from './question'
import { standingRules } from './rules'

/** An image on the shelf, as the search for a way sees it. */
export interface ShelfEntry extends FitImage {
  id: string
  /** SHA-256 of what it says, by which a later image may ask for it. */
  contentSha256: string
}

/** What a way is looked for with. */
export interface PathQuestion {
  family: Family
  unit: UnitFacts
  answers?: UnitAnswers
  shelf: readonly ShelfEntry[]
  /** The image that is wanted on its component in the end. */
  wanted: ShelfEntry
  workshopRules: WorkshopRules
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
  /** Why nothing older can be put back after this hop. */
  noWayBack?: string
}

/** PRACTICE B5: the family's own rule wins; the workshop rule is the default. */
export function inSequence(family: Family, workshopRules: WorkshopRules): boolean {
  const { path } = family.updates
  return path === 'every-release' || (path === 'workshop' && workshopRules.hops === 'sequential')
}

/** Candidates by question and component: both the way there and the way back ask for them. */
const judged = new WeakMap<PathQuestion, Map<string, ShelfEntry[]>>()

/** Production images of the component that belong on the unit, with the wanted one whatever its release. */
export function candidates(question: PathQuestion, component: Component): ShelfEntry[] {
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

/** One write of an image on what is there, with the gate after which nothing older goes back. */
export function hopOf(
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

const atLeast = (scheme: VersionScheme, version: string, min: string) =>
  ['same', 'newer'].includes(compareVersions(scheme, version, min))
