import type { Family, FamilyLink } from '../family'
import { bytesText, type Finding } from '../kernel'
import type { ImageIdentity } from './image-identity'

/** A file on a card or stick, or in the bundle that is to be put on it. */
export interface PackageFile {
  path: string
  size: number
  /** Null for a file that is no known image. */
  identity: ImageIdentity | null
}

/** A medium that a unit searches for its files. */
export type Medium = NonNullable<FamilyLink['medium']>

/** The family's card or stick, when it takes one. */
export function mediumOf(family: Family): Medium | undefined {
  for (const link of family.links) if (link.kind === 'media' && link.medium) return link.medium
  return undefined
}

/**
 * PRACTICE B11: a card or stick is searched by the unit for certain files, in a given order, on a medium that is not
 * too large.
 * @param mediumBytes size of the card or stick at hand; not judged when nobody said.
 */
export function judgePackage(medium: Medium, files: readonly PackageFile[], mediumBytes?: number): Finding[] {
  const findings: Finding[] = []
  const named = (path: string) => path.split('/').pop()!
  const wanted = medium.files.map(({ name }) => name)
  const missing = wanted.filter((name) => !files.some(({ path }) => named(path) === name))
  if (missing.length > 0) {
    findings.push({
      rule: 'package-files',
      level: 'stop',
      says: `The ${medium.name} lacks ${missing.join(', ')}.`,
      because: `The unit searches for ${wanted.join(', ')}, by these names.`,
      remedy: 'Put the missing file on it, under this very name.',
    })
  }
  const wrong = medium.files.flatMap(({ name, component }) => {
    const file = files.find(({ path }) => named(path) === name)
    return file && component !== undefined && file.identity?.componentId !== component
      ? [
          `${name} is ${file.identity ? `for ${file.identity.componentId}` : 'no known image'}, not for ${component}`,
        ]
      : []
  })
  if (wrong.length > 0) {
    findings.push({
      rule: 'package-component',
      level: 'stop',
      says: `A file has another’s name: ${wrong.join('; ')}.`,
      because: 'Read from the files’ bytes, not from their names.',
      remedy: 'Give each file the name of the component it is for.',
    })
  }
  const order = files.map(({ path }) => named(path)).filter((name) => wanted.includes(name))
  if (missing.length === 0 && order.join('\n') !== wanted.join('\n')) {
    findings.push({
      rule: 'package-order',
      level: 'hold',
      says: `The files lie in another order: ${order.join(', ')}.`,
      because: `The unit takes them in the order in which they were copied: ${wanted.join(', ')}.`,
      remedy: `Empty the ${medium.name} and copy them one by one, in this order.`,
    })
  }
  const extra = files.filter(({ path }) => !wanted.includes(named(path)))
  if (extra.length > 0 && !medium.othersAllowed) {
    findings.push({
      rule: 'package-others',
      level: 'hold',
      says: `There is more on it than the unit may find: ${extra.map(({ path }) => path).join(', ')}.`,
      because: `Only ${wanted.join(', ')} belong on the ${medium.name}.`,
      remedy: 'Leave these files off; notes stay on the shelf.',
    })
  }
  const size = files.reduce((sum, file) => sum + file.size, 0)
  if (mediumBytes !== undefined && mediumBytes > medium.maxBytes) {
    findings.push({
      rule: 'package-medium',
      level: 'stop',
      says: `The ${medium.name} is too large for this unit: ${bytesText(mediumBytes)}.`,
      because: `It reads none above ${bytesText(medium.maxBytes)}.`,
      remedy: 'Take a smaller one. A smaller partition on a large one is not the same.',
      numbers: { mediumBytes, maxBytes: medium.maxBytes },
    })
  } else if (size > (mediumBytes ?? medium.maxBytes)) {
    findings.push({
      rule: 'package-medium',
      level: 'stop',
      says: `The files do not fit: ${bytesText(size)}.`,
      because: `There is room for ${bytesText(mediumBytes ?? medium.maxBytes)}.`,
      remedy: `Take a larger ${medium.name}, up to ${bytesText(medium.maxBytes)}.`,
    })
  }
  if (findings.length === 0) {
    findings.push({
      rule: 'package-files',
      level: 'go',
      says: `The package is complete: ${wanted.join(', ')}, in this order.`,
      because: `${bytesText(size)}; the ${medium.name} may hold up to ${bytesText(medium.maxBytes)}.`,
    })
  }
  return findings
}
