import { asciiBytes, asciiText, crc32, equalBytes } from '../kernel'
import type { Component, Family } from '../family'
import { bytesAt, holdsRange, type MemoryMap } from './memory-map'

/** What an image says of itself, read from its bytes by a family's profile. A missing member is not known. */
export interface ImageIdentity {
  familyId: string
  componentId: string
  deviceIdentifier?: string
  hardwareMajor?: number
  hardwareMinor?: number
  version?: string
  /** Milliseconds since 1970 UTC. */
  buildTime?: number
  /** `production` or `test`, by the profile's names. */
  release?: string
  /** Bytes the image says it has. */
  length?: number
  /** The image's own check over its bytes; absent where the family has none. */
  intact?: { ok: boolean; expected: number; found: number }
}

/**
 * Finds the family and component whose identity block the image carries; null when no profile claims it.
 * File names play no part (PRACTICE B2).
 */
export function identifyImage(memory: MemoryMap, families: readonly Family[]): ImageIdentity | null {
  for (const family of families) {
    for (const component of family.components) {
      if (carriesMagic(memory, component)) return readIdentity(memory, family, component)
    }
  }
  return null
}

function carriesMagic(memory: MemoryMap, { identity }: Component): boolean {
  const magic = asciiBytes(identity.magic)
  return (
    holdsRange(memory, identity.address, magic.length) &&
    equalBytes(bytesAt(memory, identity.address, magic.length, 0), magic)
  )
}

function readIdentity(memory: MemoryMap, family: Family, component: Component): ImageIdentity {
  const found: ImageIdentity = { familyId: family.id, componentId: component.id }
  for (const rule of component.identity.fields) {
    const address = component.identity.address + rule.offset
    const length = rule.length ?? { ascii: 0, u8: 1, u16le: 2, u32le: 4, unix32le: 4 }[rule.type]
    if (!holdsRange(memory, address, length)) continue
    const bytes = bytesAt(memory, address, length, 0)
    if (rule.type === 'ascii') {
      const zero = bytes.indexOf(0)
      const text = asciiText(zero < 0 ? bytes : bytes.subarray(0, zero)).trim()
      if (text === '' || !/^[\x20-\x7e]+$/.test(text)) continue
      if (rule.field === 'deviceIdentifier' || rule.field === 'version' || rule.field === 'release') {
        found[rule.field] = text
      }
      continue
    }
    const value = bytes.reduceRight((sum, byte) => sum * 256 + byte, 0)
    if (rule.field === 'buildTime') found.buildTime = value * 1000
    else if (rule.field === 'hardwareMajor' || rule.field === 'hardwareMinor' || rule.field === 'length') {
      found[rule.field] = value
    } else found[rule.field] = rule.names?.[String(value)] ?? String(value)
  }
  const intact = component.identity.integrity && checkTrailer(memory, component, found.length)
  if (intact) found.intact = intact
  return found
}

/** `crc32-trailer`: the image's last four bytes, little endian, are the CRC-32 of all before them. */
function checkTrailer(
  memory: MemoryMap,
  component: Component,
  length: number | undefined,
): ImageIdentity['intact'] {
  const start = component.memory.regions
    .filter((region) => region.use === 'application')
    .reduce((least, region) => Math.min(least, region.address), Infinity)
  if (length === undefined || length < 8 || length > 0x1000_0000) return { ok: false, expected: 0, found: 0 }
  const bytes = bytesAt(memory, start, length, component.memory.erasedByte)
  const trailer = bytes.subarray(length - 4)
  const expected = trailer.reduceRight((sum, byte) => sum * 256 + byte, 0)
  const found = crc32(bytes.subarray(0, length - 4))
  return { ok: expected === found, expected, found }
}
