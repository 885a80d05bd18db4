import { sha256 } from '@noble/hashes/sha2.js'
import { utf8ToBytes } from '@noble/hashes/utils.js'
import { hexOf } from './bytes'

/** SHA-256 (FIPS 180-4) of bytes, or of a text's UTF-8 bytes, as 64 lower-case hexadecimal digits. */
export function sha256Hex(data: Uint8Array | string): string {
  return hexOf(sha256(typeof data === 'string' ? utf8ToBytes(data) : data))
}

/** SHA-256 of many parts one after the other, without joining them first. */
export function sha256OfParts(parts: Iterable<Uint8Array>): string {
  const hash = sha256.create()
  for (const part of parts) hash.update(part)
  return hexOf(hash.digest())
}
