import type { Component } from '../family'
import { compareVersions, type VersionOrder, type VersionScheme } from '../unit'
import { hopOf, inSequence, type Hop, type PathQuestion, type ShelfEntry } from './hop'
import { precursorDigest } from './rules/precursor-digest'

/**
 * The quickest way of one component from what is there to one of the targets, by predicted time; null where there is none.
 * Dijkstra over versions: few candidates, so the nearest is found by looking through them.
 */
export function shortestWay(
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
  { family, workshopRules }: PathQuestion,
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
    (family.updates.mandatoryVersions ?? []).some(
      (stone) => stone.component === component.id && between(stone.version),
    )
  )
    return false
  if (!inSequence(family, workshopRules)) return true
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
