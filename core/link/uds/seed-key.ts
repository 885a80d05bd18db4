/**
 * The demo's own seed and key, so that security access can be practised; real equipment has its own, and its papers say
 * who may hold it. The key is the seed turned left by seven bits and mixed with the family's secret.
 * @param seed four bytes. @returns four bytes.
 */
export function demoKey(seed: Uint8Array, secret: number): Uint8Array {
  const [a = 0, b = 0, c = 0, d = 0] = seed
  const value = ((a << 24) | (b << 16) | (c << 8) | d) >>> 0
  const key = (((value << 7) | (value >>> 25)) ^ secret) >>> 0
  return Uint8Array.of(key >>> 24, (key >> 16) & 255, (key >> 8) & 255, key & 255)
}
