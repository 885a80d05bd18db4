import { literalStart, readTemplateStart, type Component, type Family } from '../family'
import { asciiBytes, asciiText } from '../kernel'
import { findBytes } from './find-bytes'
import type { ImageIdentity } from './image-identity'
import { bytesAt, type MemoryMap } from './memory-map'

/** Bytes looked at from where a text begins. */
const maxText = 200
/** Places looked at where a text's beginning stands; a word of every message would stand at more. */
const maxPlaces = 200

/** By a text around its version, as its profile writes it: "FW v{version} ". */
export function byText(memory: MemoryMap, families: readonly Family[]): ImageIdentity | null {
  const claims = families.flatMap((family) =>
    family.components.flatMap((component) => {
      const found = textsOf(memory, component)
      return found.length > 0 ? [{ family, component, found }] : []
    }),
  )
  const [first] = claims
  if (!first) return null
  const identity: ImageIdentity = {
    familyId: first.family.id,
    componentId: first.component.id,
    toldBy: 'text',
  }
  const contradictions: string[] = []
  if (claims.length > 1) {
    const names = claims.map(({ family, component }) => `${family.id}, ${component.id}`)
    contradictions.push(`a text in it could be of ${names.join(' or of ')}`)
  }
  const versions = distinct(first.found.map(({ version }) => version))
  if (versions.length === 1) identity.version = versions[0]!
  else contradictions.push(`its texts say version ${versions.join(' and ')}`)
  const majors = distinct(first.found.map(({ hardware }) => majorIn(hardware)))
  if (majors.length === 1) identity.hardwareMajor = majors[0]!
  else if (majors.length > 1) contradictions.push(`its texts say hardware ${majors.join(' and ')}`)
  return contradictions.length > 0 ? { ...identity, contradictions } : identity
}

function textsOf(memory: MemoryMap, { versionText = [] }: Component): Record<string, string>[] {
  return versionText.flatMap((template) =>
    findBytes(memory, asciiBytes(literalStart(template)), maxPlaces).flatMap((address) => {
      const text = asciiText(bytesAt(memory, address, maxText, 0))
      const values = readTemplateStart(template, text)
      return values ? [values] : []
    }),
  )
}

const distinct = <T>(values: readonly (T | undefined)[]): T[] => [
  ...new Set(values.filter((value): value is T => value !== undefined)),
]

/** "2" and "2.1" are hardware 2; a text without a number in front tells none. */
function majorIn(text: string | undefined): number | undefined {
  const digits = /^\d+/.exec(text ?? '')?.[0]
  return digits === undefined ? undefined : Number(digits)
}
