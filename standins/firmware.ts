import {
  applicationRegions,
  componentOf,
  fillTemplate,
  type Family,
  type IdentityFieldName,
} from '@bench-wake/core/family'
import type { MemoryMap } from '@bench-wake/core/image'
import { asciiBytes, crc32 } from '@bench-wake/core/kernel'

/** What a made-up image says of itself, in the words of its family's profile. */
export interface MadeUpFirmware {
  component: string
  length: number
  fields: Partial<Record<IdentityFieldName, string | number>>
  /** Bytes of an older build to start from: the two then share most blocks, as real releases do. */
  like?: Uint8Array
}

/** Bytes that look like firmware to every check there is: vectors, identity block, body, CRC-32 trailer. */
export function firmwareOf(
  family: Family,
  { component: id, length, fields, like }: MadeUpFirmware,
): Uint8Array {
  const component = componentOf(family, id)
  const start = applicationRegions(component)[0]!.address
  const bytes = new Uint8Array(length)
  // A linear congruential generator (Numerical Recipes' constants); what the image says seeds it, so bodies differ.
  let seed = crc32(asciiBytes(`${family.id}/${id}/${JSON.stringify(fields)}`))
  for (let at = 0; at < bytes.length; at++) {
    seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0
    bytes[at] = seed >>> 24
  }
  if (like) bytes.set(like.subarray(0, Math.floor((Math.min(length, like.length) * 7) / 8)), 0)
  const view = new DataView(bytes.buffer)
  const { identity, versionText: [label] = [] } = component
  // A block that is searched for, and a text, stand where nothing else does.
  const at = (identity?.address ?? start + 0x200) - start
  if (start >= 0x0800_0000 && at >= 0xc0) {
    view.setUint32(0, 0x2000_8000, true)
    for (let vector = 1; vector < 48; vector++)
      view.setUint32(vector * 4, start + 0x200 + vector * 24 + 1, true)
  }
  bytes.fill(0, at, at + 0x40)
  if (label) bytes.set(asciiBytes(labelText(label, fields)), at + (identity ? 0x80 : 0))
  if (identity) bytes.set(asciiBytes(identity.magic), at)
  for (const rule of identity?.fields ?? []) {
    const said = rule.field === 'length' ? length : rule.field === 'component' ? id : fields[rule.field]
    if (said === undefined) continue
    const place = at + rule.offset
    if (rule.type === 'ascii') {
      bytes.set(asciiBytes(String(said)).subarray(0, rule.length), place)
      continue
    }
    if (rule.type === 'hex') {
      const digits = String(said)
      for (let index = 0; index < rule.length!; index++)
        bytes[place + index] = parseInt(digits.slice(index * 2, index * 2 + 2), 16)
      continue
    }
    const named = Object.entries(rule.names ?? {}).find(([, name]) => name === said)?.[0]
    const value = Number(named ?? said)
    if (rule.type === 'u8') bytes[place] = value
    else if (rule.type === 'u16le' || rule.type === 'u16be')
      view.setUint16(place, value, rule.type === 'u16le')
    else view.setUint32(place, value, rule.type.endsWith('le'))
  }
  if (identity?.integrity) view.setUint32(length - 4, crc32(bytes.subarray(0, length - 4)), true)
  return bytes
}

/** The text around the version, with its end marked. */
const labelText = (template: string, { version = '', hardwareMajor = 1 }: MadeUpFirmware['fields']): string =>
  `${fillTemplate(template, { version, hardware: hardwareMajor })}\0`

/** The image where it belongs. */
export function placed(family: Family, form: MadeUpFirmware): MemoryMap {
  const start = applicationRegions(componentOf(family, form.component))[0]!.address
  return [{ address: start, bytes: firmwareOf(family, form) }]
}
