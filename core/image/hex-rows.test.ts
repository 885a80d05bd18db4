import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asciiBytes } from '../kernel'
import { findBytes, hexLayout, rowOf, rowsAt, wantedBytes, type MemoryMap } from '.'

/* Rows of a hex view: sixteen bytes each, aligned to sixteen, one for a gap; worked by hand. */

const at = (address: number, bytes: Uint8Array): MemoryMap => [{ address, bytes }]
const rising = (length: number) => Uint8Array.from({ length }, (_, index) => index)

describe('a hex view', () => {
  const memory: MemoryMap = [...at(0x100, asciiBytes('HELLO HELLO')), ...at(0x200, asciiBytes('HELLO'))]
  const layout = hexLayout(memory)
  const row = (text: string) => Array.from({ length: 16 }, (_, index) => text.codePointAt(index) ?? null)

  it('has rows of sixteen, one for a gap, and finds the row of any address', () => {
    expect(layout.rows).toBe(3)
    const all = [
      { kind: 'bytes', address: 0x100, bytes: row('HELLO HELLO') },
      { kind: 'gap', address: 0x10b, length: 0xf5 },
      { kind: 'bytes', address: 0x200, bytes: row('HELLO') },
    ]
    expect(rowsAt(memory, layout, 0, 10)).toEqual(all)
    expect(rowsAt(memory, layout, 1, 2)).toEqual(all.slice(1))
    expect(rowsAt(memory, layout, 1, 1)).toEqual(all.slice(1, 2))
    expect(rowsAt(memory, layout, -2, 3)).toEqual(all.slice(0, 1))
    expect(rowsAt(memory, layout, 3, 5)).toEqual([])
    expect(
      [0, 0xff, 0x100, 0x10a, 0x10b, 0x180, 0x1ff, 0x200, 0x9999].map((each) => rowOf(layout, each)),
    ).toEqual([0, 0, 0, 0, 0, 1, 1, 2, 2])
  })
  it('begins each segment at sixteen, what lies before it and behind it is nothing', () => {
    const odd = [...at(0x10e, rising(20)), ...at(0x130, rising(1))]
    const rows = hexLayout(odd)
    expect(rows.rows).toBe(5)
    const nothing = (count: number) => Array<null>(count).fill(null)
    expect(rowsAt(odd, rows, 0, 5)).toEqual([
      { kind: 'bytes', address: 0x100, bytes: [...nothing(14), 0, 1] },
      { kind: 'bytes', address: 0x110, bytes: Array.from({ length: 16 }, (_, index) => index + 2) },
      { kind: 'bytes', address: 0x120, bytes: [18, 19, ...nothing(14)] },
      { kind: 'gap', address: 0x122, length: 0x0e },
      { kind: 'bytes', address: 0x130, bytes: [0, ...nothing(15)] },
    ])
    expect([0x10e, 0x10f, 0x110, 0x121, 0x130].map((each) => rowOf(rows, each))).toEqual([0, 0, 1, 2, 4])
  })
  it('of nothing has no row', () => {
    const none = hexLayout([])
    expect(none).toEqual({ rows: 0, blocks: [] })
    expect(rowsAt([], none, 0, 10)).toEqual([])
    expect(rowOf(none, 0x100)).toBe(0)
  })
  it('finds for every address the row that shows it', () => {
    const gaps = fc.array(fc.tuple(fc.integer({ min: 1, max: 90 }), fc.integer({ min: 1, max: 70 })), {
      minLength: 1,
      maxLength: 5,
    })
    fc.assert(
      fc.property(gaps, (list) => {
        let place = 0
        const map = list.map(([gap, length]) => {
          const address = place + gap
          place = address + length
          return { address, bytes: rising(length) }
        })
        const rows = hexLayout(map)
        for (const { address, bytes } of map) {
          bytes.forEach((byte, offset) => {
            const [shown] = rowsAt(map, rows, rowOf(rows, address + offset), 1)
            expect(shown?.kind === 'bytes' && shown.bytes[address + offset - shown.address]).toBe(byte)
          })
        }
      }),
      { numRuns: 50 },
    )
  })
})

describe('what is looked for', () => {
  const bytes = (...list: number[]) => Uint8Array.from(list)
  it.each([
    ['de ad BE:EF', bytes(0xde, 0xad, 0xbe, 0xef)],
    ['de,ad', bytes(0xde, 0xad)],
    [' 0x4845 ', bytes(0x48, 0x45)],
    ['0XFF', bytes(0xff)],
    ['00', bytes(0)],
    ['"dead"', asciiBytes('dead')],
    ['"de ad"', asciiBytes('de ad')],
    ['dea', asciiBytes('dea')],
    ['deadx', asciiBytes('deadx')],
    ['HELLO', asciiBytes('HELLO')],
    ['say "dead"', asciiBytes('say "dead"')],
    ['"dead" said', asciiBytes('"dead" said')],
    ['ö', bytes(0xf6)],
  ])('%j is bytes or a text', (typed, wanted) => {
    expect([...wantedBytes(typed)!]).toEqual([...wanted])
  })
  it('is nothing where nothing was typed', () => {
    expect([wantedBytes(''), wantedBytes('  ')]).toEqual([null, null])
  })

  const memory: MemoryMap = [...at(0x100, asciiBytes('HELLO HELLO')), ...at(0x200, asciiBytes('HELLO'))]
  it('is found at each of its places, and from an address on', () => {
    expect(findBytes(memory, asciiBytes('HELLO'))).toEqual([0x100, 0x106, 0x200])
    expect(findBytes(memory, asciiBytes('HELLO'), 100, 0x101)).toEqual([0x106, 0x200])
    expect(findBytes(memory, asciiBytes('HELLO'), 100, 0x106)).toEqual([0x106, 0x200])
    expect(findBytes(memory, asciiBytes('HELLO'), 1)).toEqual([0x100])
    expect(findBytes(memory, asciiBytes('HELLO'), 2)).toEqual([0x100, 0x106])
    expect(findBytes(memory, new Uint8Array(0))).toEqual([])
  })
  it('may overlap itself, and is not found where it is cut off or crosses a gap', () => {
    expect(findBytes(at(0, asciiBytes('aaa')), asciiBytes('aa'))).toEqual([0, 1])
    expect(findBytes(at(0, asciiBytes('xHELL')), asciiBytes('HELLO'))).toEqual([])
    expect(findBytes([...at(0, asciiBytes('HE')), ...at(2, asciiBytes('LLO'))], asciiBytes('HELLO'))).toEqual(
      [],
    )
    expect(findBytes(at(0, asciiBytes('HE')), asciiBytes('E'))).toEqual([1])
    expect(findBytes(at(0x10, bytes(0, 0)), bytes(0))).toEqual([0x10, 0x11])
  })
  it('is found a hundred times at the most where nothing else is said', () => {
    expect(findBytes(at(0, new Uint8Array(300)), bytes(0))).toHaveLength(100)
  })
})
