import fc from 'fast-check'
import { expect } from 'vitest'
import { isProblem, type Problem } from '../kernel'
import type { Loader } from './loader'

/** What an act is refused with. @throws Error where nothing is refused. */
export async function caught(act: Promise<unknown>): Promise<Problem> {
  try {
    await act
  } catch (error) {
    if (isProblem(error)) return error
    throw error
  }
  throw new Error('nothing was refused')
}

/** Bytes that look like none in particular, the same for the same seed. */
export const noise = (length: number, seed = 1): Uint8Array =>
  Uint8Array.from({ length }, (_, at) => (Math.imul(at + seed, 2654435761) >>> 13) & 255)

/** What may be bent on a wire: a bit, on its way in or out. */
export type BendWire = (bit: boolean, direction: 'in' | 'out') => boolean

/** A unit that is written under faults: where the image goes, and its memory as it is. */
export interface FaultedUnit {
  loader: Loader
  address: number
  memory: Uint8Array
}

/**
 * Writes under faults by the hundred, or as many as BENCH_WAKE_FAULTS says: single bits that flip now and then (`flip`),
 * contact that gives way for a while (`lost`), and whatever else the unit is made to do. Whatever comes, a proof is given
 * only where every byte is there, and what is refused is refused in words.
 * @param clocks how many clocks of the wire a fault lies within.
 * @param make a unit of its own for each, by the fault's name.
 */
export async function writeUnderFaults(
  faults: readonly string[],
  { imageBytes, clocks, runs }: { imageBytes: number; clocks: number; runs: number },
  make: (fault: string, seed: number, wire: BendWire) => Promise<FaultedUnit>,
): Promise<{ proved: number; refused: number }> {
  const count = { proved: 0, refused: 0 }
  await fc.assert(
    fc.asyncProperty(
      fc.record({
        seed: fc.nat(10_000),
        fault: fc.constantFrom(...faults),
        every: fc.integer({ min: 40, max: clocks }),
        way: fc.constantFrom('in', 'out', 'both'),
        from: fc.nat(clocks),
        long: fc.nat(4000),
      }),
      async ({ seed, fault, every, way, from, long }) => {
        let clock = 0
        const image = noise(imageBytes, seed)
        const { loader, address, memory } = await make(fault, seed, (bit, direction) => {
          clock++
          if (fault === 'flip' && (way === 'both' || way === direction) && clock % every === 0) return !bit
          return fault === 'lost' && clock > from && clock < from + long ? true : bit
        })
        try {
          await loader.attach()
          await loader.erase({ address, length: image.length }, () => {})
          await loader.write(address, image, () => {}, { raised: false })
          if ((await loader.verify(address, image)).outcome === 'equal-read-back') {
            count.proved++
            expect(memory.subarray(address, address + image.length)).toEqual(image)
          } else count.refused++
        } catch (error) {
          if (!isProblem(error)) throw error
          count.refused++
        }
      },
    ),
    { numRuns: Number(process.env['BENCH_WAKE_FAULTS'] ?? runs), endOnFailure: true },
  )
  return count
}
