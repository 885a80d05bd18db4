import type { KeyStep } from '../../family'
import { hexOf, Problem } from '../../kernel'

/**
 * The answer to a seed of security access (ISO 14229-1, service 27), by the steps that a profile has from the unit's
 * manual. The standard leaves the sum to the maker; the seed is one whole number, high byte first, and so is the key.
 * @param seed one to four bytes; all sums are of that width.
 * @returns the key, as many bytes as the seed.
 * @throws Problem `seed-length` for a seed of another length: a unit that sends one reckons otherwise.
 * @example keyOfSeed(Uint8Array.of(0x12, 0x34), [{ do: 'xor', by: 0xffff }]) // ed cb
 */
export function keyOfSeed(seed: Uint8Array, steps: readonly KeyStep[]): Uint8Array {
  if (seed.length < 1 || seed.length > 4)
    throw new Problem({
      kind: 'seed-length',
      thing: 'seed',
      says: `the unit sends a seed of ${seed.length} bytes, and the profile reckons with one to four`,
      found: hexOf(seed),
      remedy: 'Look in its manual how the key is made of such a seed, or have the profile ask for the key.',
    })
  const bits = seed.length * 8
  const mask = bits === 32 ? 0xffffffff : 2 ** bits - 1
  let value = seed.reduce((sum, byte) => sum * 256 + byte, 0)
  for (const step of steps) value = (stepOf(step, value, bits, mask) & mask) >>> 0
  return seed.map((_, at) => (value >>> (bits - 8 * (at + 1))) & 255)
}

function stepOf(step: KeyStep, value: number, bits: number, mask: number): number {
  switch (step.do) {
    case 'add':
      return (value + step.by) % 2 ** 32
    case 'multiply':
      return Math.imul(value, step.by)
    case 'xor':
      return value ^ step.by
    case 'rotate': {
      const left = ((step.left % bits) + bits) % bits
      return left === 0 ? value : (value << left) | ((value & mask) >>> (bits - left))
    }
    case 'swap':
      return bytesOf(value, bits).reduceRight((sum, byte) => sum * 256 + byte, 0)
    case 'table':
      return bytesOf(value, bits).reduce((sum, byte) => sum * 256 + step.values[byte]!, 0)
    default:
      return step satisfies never
  }
}

const bytesOf = (value: number, bits: number): number[] =>
  Array.from({ length: bits / 8 }, (_, at) => (value >>> (bits - 8 * (at + 1))) & 255)
