import { asciiBytes, asciiText, crc32, equalBytes, hexOf } from '../kernel'
import type { Component, Family } from '../family'
import { findBytes } from './find-bytes'
import type { ImageIdentity } from './image-identity'
import { mergeIdentities } from './merge-identities'
import { bytesAt, holdsRange, type MemoryMap } from './memory-map'
import { byRelease } from './told-by-release'
import { byText } from './told-by-text'

/** What stands in an identity block before anybody knows which component it is. */
type Found = Omit<ImageIdentity, 'familyId' | 'componentId'> & { component?: string }

/**
 * Says what an image is, by every way that its bytes and the profiles give, best first; null when no profile claims it. File
 * names play no part (PRACTICE B2).
 * @param digests SHA-256 of the file and of what it sets in memory, for the profiles' lists of releases.
 */
export function identifyImage(
  memory: MemoryMap,
  families: readonly Family[],
  digests: readonly string[] = [],
): ImageIdentity | null {
  return mergeIdentities([byBlock(memory, families), byText(memory, families), byRelease(digests, families)])
}

/** By the identity block alone. Where several profiles know the mark, the device identifier in the block tells whose it is. */
function byBlock(memory: MemoryMap, families: readonly Family[]): ImageIdentity | null {
  const claims = claimsOn(memory, families)
  return claims.find(({ ownDevice }) => ownDevice)?.identity ?? claims[0]?.identity ?? null
}

/** What each profile that knows the image's mark reads off it, in the order of the profiles. */
function claimsOn(
  memory: MemoryMap,
  families: readonly Family[],
): { identity: ImageIdentity; ownDevice: boolean }[] {
  const claims: { identity: ImageIdentity; ownDevice: boolean }[] = []
  for (const family of families) {
    for (const component of family.components) {
      const block = component.identity
      const start = block && blockAddress(memory, block)
      if (!block || start === undefined) continue
      const { component: named, ...found } = readBlock(memory, component, block, start)
      // Components that share a mark are told apart by the block's own number (PRACTICE A5).
      if (named !== undefined && named !== component.id) continue
      const identity: ImageIdentity = { familyId: family.id, componentId: component.id, ...found }
      const major = identity.hardwareMajor ?? majorByVersion(family, component, identity.version)
      if (major !== undefined) identity.hardwareMajor = major
      const ownDevice = identity.deviceIdentifier === family.hardware.deviceIdentifier
      claims.push({ identity, ownDevice })
      break
    }
  }
  return claims
}

type Block = NonNullable<Component['identity']>

/** Where the identity block begins: where the profile says, or where its mark stands; undefined where there is none. */
function blockAddress(memory: MemoryMap, { address, magic }: Block): number | undefined {
  const mark = asciiBytes(magic)
  if (address === undefined) return findBytes(memory, mark, 1)[0]
  const stands =
    holdsRange(memory, address, mark.length) && equalBytes(bytesAt(memory, address, mark.length, 0), mark)
  return stands ? address : undefined
}

const typeBytes = {
  ascii: 0,
  hex: 0,
  u8: 1,
  u16le: 2,
  u32le: 4,
  u16be: 2,
  u32be: 4,
  unix32le: 4,
  unix32be: 4,
}
type TextField =
  | 'deviceIdentifier'
  | 'model'
  | 'version'
  | 'release'
  | 'serial'
  | 'variant'
  | 'layout'
  | 'requiresFrom'
  | 'requiresBelow'
  | 'precursor'
  | 'component'
const numbers = ['hardwareMajor', 'hardwareMinor', 'sequence', 'length'] as const

function readBlock(memory: MemoryMap, component: Component, block: Block, start: number): Found {
  const found: Found = {}
  for (const rule of block.fields) {
    const address = start + rule.offset
    const length = rule.length ?? typeBytes[rule.type]
    if (!holdsRange(memory, address, length)) continue
    const bytes = bytesAt(memory, address, length, 0)
    const value =
      rule.type === 'ascii'
        ? textIn(bytes)
        : rule.type === 'hex'
          ? digitsIn(bytes)
          : numberIn(bytes, rule.type)
    if (value === undefined) continue
    if (rule.field === 'buildTime') {
      if (typeof value === 'number') found.buildTime = value * 1000
      else if (!Number.isNaN(Date.parse(value))) found.buildTime = Date.parse(value)
    } else if (rule.field === 'options') {
      found.options = optionsText(component, Number(value))
    } else if ((numbers as readonly string[]).includes(rule.field)) {
      if (Number.isInteger(Number(value))) found[rule.field as (typeof numbers)[number]] = Number(value)
    } else {
      found[rule.field as TextField] = rule.names?.[String(value)] ?? String(value)
    }
  }
  const intact = block.integrity && checkTrailer(memory, component, found.length)
  if (intact) found.intact = intact
  return found
}

function textIn(bytes: Uint8Array): string | undefined {
  const zero = bytes.indexOf(0)
  const text = asciiText(zero < 0 ? bytes : bytes.subarray(0, zero)).trim()
  return text !== '' && /^[\x20-\x7e]+$/.test(text) ? text : undefined
}

/** All zero or all one bits stand for "none". */
function digitsIn(bytes: Uint8Array): string | undefined {
  return bytes.every((byte) => byte === 0) || bytes.every((byte) => byte === 0xff) ? undefined : hexOf(bytes)
}

function numberIn(bytes: Uint8Array, type: string): number {
  const ordered = type.endsWith('be') ? bytes : [...bytes].reverse()
  return [...ordered].reduce((sum, byte) => sum * 256 + byte, 0)
}

/** PRACTICE B9: the options an image was built with, by their names. */
export function optionsText(component: Component, value: number): string {
  const on = (component.options ?? []).filter(({ bit }) => Math.floor(value / 2 ** bit) % 2 === 1)
  return on.length > 0 ? on.map(({ id }) => id).join('+') : 'none'
}

/** PRACTICE A4: where leading digits name the hardware line, the image's own version tells what it is for. */
function majorByVersion(
  family: Family,
  component: Component,
  version: string | undefined,
): number | undefined {
  if (version === undefined) return undefined
  return family.hardware.revisions.find(({ markings }) =>
    markings?.some(
      ({ field, startsWith }) => field === `version.${component.id}` && version.startsWith(startsWith),
    ),
  )?.major
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
