import type { Family } from '@bench-wake/core/family'
import { asciiBytes, crc32 } from '@bench-wake/core/kernel'
import { writeIntelHex } from '@bench-wake/core/image'

export interface DemoImage {
  deviceIdentifier: string
  hardware: [major: number, minor: number]
  version: string
  release: 'production' | 'test'
  /** Seconds since 1970 UTC. */
  built: number
  length: number
}

/** Bytes that look like firmware to every check there is: vectors, identity block, body, CRC-32 trailer. */
export function demoFirmware(form: DemoImage): Uint8Array {
  const bytes = new Uint8Array(form.length)
  // A linear congruential generator (Numerical Recipes' constants); the version seeds it, so bodies differ.
  let seed = crc32(asciiBytes(`${form.deviceIdentifier}/${form.hardware[0]}/${form.version}`))
  for (let at = 0; at < bytes.length; at++) {
    seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0
    bytes[at] = seed >>> 24
  }
  const view = new DataView(bytes.buffer)
  view.setUint32(0, 0x2000_8000, true)
  for (let vector = 1; vector < 48; vector++) view.setUint32(vector * 4, 0x0800_8200 + vector * 24 + 1, true)
  const at = 0x1c0
  bytes.fill(0, at, at + 0x40)
  bytes.set(asciiBytes('FOGSIGNL'), at)
  bytes.set(asciiBytes(form.deviceIdentifier), at + 8)
  bytes[at + 16] = form.hardware[0]
  bytes[at + 17] = form.hardware[1]
  bytes[at + 18] = form.release === 'test' ? 1 : 0
  bytes.set(asciiBytes(form.version), at + 20)
  view.setUint32(at + 32, form.built, true)
  view.setUint32(at + 36, form.length, true)
  view.setUint32(form.length - 4, crc32(bytes.subarray(0, form.length - 4)), true)
  return bytes
}

/** The image as the Intel HEX file a supplier sends. */
export function demoHex(family: Family, form: DemoImage): string {
  const application = family.components[0]!.memory.regions.find((region) => region.use === 'application')!
  return writeIntelHex([{ address: application.address, bytes: demoFirmware(form) }], {
    lineEnd: '\r\n',
    start: { kind: 'linear', address: application.address },
  })
}
