import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compareImages, maxDifferences } from './compare-images'
import type { MemoryMap } from './memory-map'

const part = (address: number, ...bytes: number[]) => ({ address, bytes: Uint8Array.from(bytes) })
const zeros = (address: number, length: number, ...at: number[]) => {
  const bytes = new Uint8Array(length)
  for (const each of at) bytes[each] = 1
  return { address, bytes }
}

/** The same, byte by byte: nothing of the comparison under test. */
function counted(first: MemoryMap, second: MemoryMap) {
  const [a, b] = [first, second].map(
    (memory) =>
      new Map(memory.flatMap(({ address, bytes }) => [...bytes].map((byte, at) => [address + at, byte]))),
  ) as [Map<number, number>, Map<number, number>]
  const all = [...new Set([...a.keys(), ...b.keys()])]
  const count = (which: (at: number) => boolean) => all.filter(which).length
  return {
    equalBytes: count((at) => a.has(at) && a.get(at) === b.get(at)),
    changedBytes: count((at) => a.has(at) && b.has(at) && a.get(at) !== b.get(at)),
    onlyFirstBytes: count((at) => !b.has(at)),
    onlySecondBytes: count((at) => !a.has(at)),
  }
}
const maps = fc
  .array(fc.tuple(fc.nat(6), fc.array(fc.nat(1), { minLength: 1, maxLength: 12 })), { maxLength: 5 })
  .map((rows) => {
    let next = 0x100
    return rows.map(([gap, bytes]) => {
      const address = next + gap
      // Parts of an image never touch: they would be one.
      next = address + bytes.length + 1
      return part(address, ...bytes)
    })
  })

describe('two images', () => {
  it('are counted byte by byte', () => {
    fc.assert(
      fc.property(maps, maps, (first, second) => {
        const { differences, more, same, ...figures } = compareImages(first, second)
        const wanted = counted(first, second)
        expect(figures).toEqual(wanted)
        expect(more).toBe(0)
        expect(same).toBe(wanted.changedBytes + wanted.onlyFirstBytes + wanted.onlySecondBytes === 0)
        const bytesOf = (kind: string) =>
          differences.filter((each) => each.kind === kind).reduce((sum, { bytes }) => sum + bytes, 0)
        expect([bytesOf('changed'), bytesOf('only-first'), bytesOf('only-second')]).toEqual([
          wanted.changedBytes,
          wanted.onlyFirstBytes,
          wanted.onlySecondBytes,
        ])
        // Lowest first, and none within another.
        for (const [index, { address }] of differences.entries())
          if (index > 0)
            expect(address).toBeGreaterThanOrEqual(
              differences[index - 1]!.address + differences[index - 1]!.length,
            )
      }),
    )
  })
  it('that are the same differ nowhere; one that is empty is missing whole', () => {
    expect(compareImages([part(4, 1, 2)], [part(4, 1, 2)])).toMatchObject({ same: true, differences: [] })
    expect(compareImages([], [])).toMatchObject({ same: true, equalBytes: 0 })
    expect(compareImages([], [part(4, 1, 2)])).toMatchObject({
      same: false,
      differences: [{ address: 4, length: 2, kind: 'only-second', bytes: 2 }],
    })
  })
  it('differ in one stretch over up to eight equal bytes, in two over nine', () => {
    const plain = [zeros(0x100, 40)]
    expect(compareImages(plain, [zeros(0x100, 40, 3, 12)]).differences).toEqual([
      { address: 0x103, length: 10, kind: 'changed', bytes: 2 },
    ])
    expect(compareImages(plain, [zeros(0x100, 40, 3, 13)]).differences).toEqual([
      { address: 0x103, length: 1, kind: 'changed', bytes: 1 },
      { address: 0x10d, length: 1, kind: 'changed', bytes: 1 },
    ])
    expect(compareImages(plain, [zeros(0x100, 40, 0, 1, 2, 39)]).differences).toEqual([
      { address: 0x100, length: 3, kind: 'changed', bytes: 3 },
      { address: 0x127, length: 1, kind: 'changed', bytes: 1 },
    ])
  })
  it('have stretches of their own where one sets nothing: holes and ends part them, other kinds too', () => {
    expect(compareImages([part(0, 1, 2, 3), part(5, 1)], [part(2, 9, 4), part(9, 1)]).differences).toEqual([
      { address: 0, length: 2, kind: 'only-first', bytes: 2 },
      { address: 2, length: 1, kind: 'changed', bytes: 1 },
      { address: 3, length: 1, kind: 'only-second', bytes: 1 },
      { address: 5, length: 1, kind: 'only-first', bytes: 1 },
      { address: 9, length: 1, kind: 'only-second', bytes: 1 },
    ])
    // Two parts of the second that lie side by side are one stretch.
    expect(compareImages([part(0, 1)], [part(0, 1, 2, 3), part(3, 4)]).differences).toEqual([
      { address: 1, length: 3, kind: 'only-second', bytes: 3 },
    ])
  })
  it('have so many stretches listed, and the rest counted', () => {
    const length = 10 * (maxDifferences + 3)
    const marks = Array.from({ length: maxDifferences + 3 }, (_, index) => 10 * index)
    const { differences, more, changedBytes } = compareImages(
      [zeros(0, length)],
      [zeros(0, length, ...marks)],
    )
    expect([differences.length, more, changedBytes]).toEqual([maxDifferences, 3, maxDifferences + 3])
    expect(differences.at(-1)!.address).toBe(10 * (maxDifferences - 1))
  })
})
