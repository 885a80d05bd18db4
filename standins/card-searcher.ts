import type { Component, Family } from '@bench-wake/core/family'
import { identifyImage, readFatRoot, type Medium } from '@bench-wake/core/image'
import { asciiBytes, equalBytes, isProblem } from '@bench-wake/core/kernel'

/** What a unit shows after it searched a card. */
export interface CardSearch {
  /** Text of its search page. */
  shows: string
  /** Components that it takes in, with their bytes; empty where it takes nothing. */
  takes: { component: string; bytes: Uint8Array }[]
}

/**
 * A unit that searches a card by itself, on the byte level: it walks the root directory entry by entry, takes files only in
 * the order that it wants, looks at nothing after the first that is out of place, and takes in what is really its own.
 * @param card bytes of the card or of its volume.
 */
export function searchCard(family: Family, medium: Medium, card: Uint8Array): CardSearch {
  if (card.length > medium.maxBytes) return { shows: 'Card error', takes: [] }
  let files: ReturnType<typeof readFatRoot>
  try {
    files = readFatRoot(card)
  } catch (error) {
    if (!isProblem(error)) throw error
    return { shows: 'Card error', takes: [] }
  }
  const takes: CardSearch['takes'] = []
  let next = 0
  for (const { name, bytes } of files) {
    const want = medium.files[next]
    if (!want) break
    if (name !== want.name) {
      if (medium.othersAllowed && !medium.files.some((each) => each.name === name)) continue
      return { shows: `No update: ${name}`, takes: [] }
    }
    if (want.component === undefined) {
      if (!equalBytes(bytes, asciiBytes(want.text ?? ''))) return { shows: `No update: ${name}`, takes: [] }
    } else {
      const component = family.components.find(({ id }) => id === want.component)!
      if (!isOwn(family, component, bytes)) return { shows: `Not for me: ${name}`, takes: [] }
      takes.push({ component: component.id, bytes })
    }
    next++
  }
  return next === medium.files.length
    ? { shows: `Update found: ${medium.files.map(({ name }) => name).join(', ')}`, takes }
    : { shows: 'No update', takes: [] }
}

function isOwn(family: Family, component: Component, bytes: Uint8Array): boolean {
  const identity = identifyImage([{ address: component.memory.regions[0]!.address, bytes }], [family])
  return identity?.componentId === component.id && identity.intact?.ok !== false
}
