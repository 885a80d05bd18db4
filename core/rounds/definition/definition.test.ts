import { describe, expect, it } from 'vitest'
import { isProblem } from '../../kernel'
import type { MemoryMap } from '../../image'
import {
  cellOf,
  checkDefinition,
  checkDefinitionDocument,
  compareRevisions,
  definitionFromRows,
  readDefinition,
  readDefinitionDocument,
  tableValues,
  type TableDefinitionDocument,
} from '.'

/** Two tables and a figure, at addresses of its own; nothing of the demo. */
const document: TableDefinitionDocument = {
  format: 'bench-wake/definition',
  formatVersion: 1,
  name: 'Bench layout 1',
  signature: { address: '0x1000', ascii: 'BL-1' },
  regions: [
    { use: 'calibration', address: '0x1100', length: '0x100' },
    { use: 'label', address: '0x1004', length: '0x4' },
    { use: 'checksum', address: '0x13FC', length: '0x4' },
  ],
  tables: [
    {
      id: 'torque',
      name: 'Torque over pedal',
      unit: 'Nm',
      address: '0x1100',
      type: 'i16',
      order: 'big',
      scale: 0.5,
      offset: -10,
      min: -10,
      max: 100,
      x: { name: 'pedal', unit: '%', values: [0, 50, 100] },
      y: { name: 'speed', unit: 'rpm', address: '0x1110', length: 2, type: 'u16', order: 'big' },
    },
    { id: 'limit', name: 'Current limit', unit: 'A', address: '0x1120', type: 'u8', min: 10, max: 200 },
  ],
}
const definition = readDefinitionDocument(document)

function image(change: (bytes: Uint8Array) => void = () => {}): MemoryMap {
  const bytes = new Uint8Array(0x400)
  bytes.set([0x42, 0x4c, 0x2d, 0x31])
  const view = new DataView(bytes.buffer)
  ;[20, 60, 120, 30, 80, 200].forEach((raw, index) => view.setInt16(0x100 + index * 2, raw, false))
  view.setUint16(0x110, 500)
  view.setUint16(0x112, 1500)
  bytes[0x120] = 150
  change(bytes)
  return [{ address: 0x1000, bytes }]
}
const levels = (memory: MemoryMap) =>
  checkDefinition(definition, memory).map(({ rule, level }) => `${rule} ${level}`)

describe('a definition file', () => {
  it('reads figures by type, order, scale and offset, row after row', () => {
    const values = tableValues(image(), definition.tables[0]!)!
    // raw × 0.5 − 10, by hand.
    expect([...values.cells]).toEqual([0, 20, 50, 5, 30, 90])
    expect(values.x).toEqual([0, 50, 100])
    expect(values.y).toEqual([500, 1500])
  })

  it.each([
    ['u8', 200, 'little', [200]],
    ['i8', -2, 'little', [0xfe]],
    ['u16', 0x1234, 'little', [0x34, 0x12]],
    ['u16', 0x1234, 'big', [0x12, 0x34]],
    ['i32', -2, 'big', [0xff, 0xff, 0xff, 0xfe]],
    ['u32', 0x01020304, 'little', [4, 3, 2, 1]],
    // IEEE 754: −12.5 is 0xC1480000.
    ['f32', -12.5, 'big', [0xc1, 0x48, 0, 0]],
  ] as const)('writes %s %d, %s end first, as its standard says', (type, figure, order, bytes) => {
    expect([...cellOf(figure, { type, order, scale: 1, offset: 0 })!]).toEqual(bytes)
    const table = { ...definition.tables[1]!, type, order, scale: 1, offset: 0, address: 0 }
    expect(tableValues([{ address: 0, bytes: Uint8Array.from(bytes) }], table)!.cells[0]).toBe(figure)
  })
  it.each([
    ['u8', 256],
    ['u8', -1],
    ['i8', 128],
    ['u16', 65_536],
    ['i16', -32_769],
    ['u32', 2 ** 32],
    ['i32', 2 ** 31],
    ['f32', 1e39],
  ] as const)('a figure that does not fit %s is not written: %d', (type, figure) => {
    expect(cellOf(figure, { type, order: 'big', scale: 1, offset: 0 })).toBeNull()
  })

  it.each([
    ['an id used twice', { tables: [document.tables[0]!, { ...document.tables[0]! }] }, 'tables.1.id'],
    [
      'breakpoints that do not rise',
      { tables: [{ ...document.tables[0]!, x: { name: 'pedal', values: [0, 50, 50] } }] },
      'tables.0.x.values',
    ],
    [
      'a table outside the calibration',
      { tables: [{ ...document.tables[1]!, address: '0x1004' }] },
      'tables.0.address',
    ],
    [
      'a table one byte beyond it',
      { tables: [{ ...document.tables[1]!, type: 'u16' as const, address: '0x11FF' }] },
      'tables.0.address',
    ],
    ['an address that is none', { signature: { address: '4096', ascii: 'BL-1' } }, 'signature.address'],
    [
      'rows without columns',
      { tables: [{ ...document.tables[1]!, y: { name: 'speed', values: [1] } }] },
      'tables.0',
    ],
    ['limits turned round', { tables: [{ ...document.tables[1]!, min: 5, max: 4 }] }, 'tables.0'],
  ])('is refused with the path of the field: %s', (_, change, at) => {
    const { definition: read, faults } = checkDefinitionDocument({ ...document, ...change })
    expect(read).toBeNull()
    expect(faults.map((fault) => fault.at)).toContain(at)
  })
  it('takes a table that ends where the calibration ends', () => {
    expect(
      checkDefinitionDocument({ ...document, tables: [{ ...document.tables[1]!, address: '0x11FF' }] })
        .faults,
    ).toEqual([])
  })
  it('says that a file is no JSON, and names the first field that is wrong', () => {
    const problem = (text: string) => {
      try {
        readDefinition(text)
      } catch (error) {
        return isProblem(error, 'definition') ? error.facts : error
      }
      return null
    }
    expect(problem('no')).toMatchObject({ says: 'this file is no JSON' })
    expect(problem(JSON.stringify({ ...document, name: '' }))).toMatchObject({ place: { at: 'name' } })
    expect(problem(JSON.stringify(document))).toBeNull()
  })

  it('comes from a list of tables as well', () => {
    const made = definitionFromRows(
      [
        {
          Name: 'Torque over pedal',
          Address: '0x1100',
          Type: 'I16',
          'Byte order': 'big',
          Factor: '0,5',
          Offset: '-10',
          Unit: 'Nm',
          X: 'pedal: 0 50 100',
          'X unit': '%',
        },
        { Name: 'Current limit', Address: '4384', Min: 10, Max: 200 },
      ],
      { name: document.name, signature: document.signature, regions: document.regions },
    )
    const read = readDefinitionDocument(made)
    expect(read.tables[0]).toMatchObject({
      address: 0x1100,
      type: 'i16',
      order: 'big',
      scale: 0.5,
      offset: -10,
    })
    expect(read.tables[0]!.x).toEqual({ name: 'pedal', unit: '%', values: [0, 50, 100] })
    expect(read.tables[1]).toMatchObject({
      address: 0x1120,
      type: 'u8',
      min: 10,
      max: 200,
      id: 'current-limit-2',
    })
    expect(() => definitionFromRows([{ Name: 'x' }], made)).toThrow('row 1')
  })
})

describe('definition and image (PRACTICE B10)', () => {
  it('agree: signature, axes, figures', () => {
    expect(levels(image())).toEqual(['definition-signature go', 'tables-plausible go'])
  })
  it('stops at another signature, and judges no table by it', () => {
    expect(levels(image((bytes) => (bytes[3] = 0x32)))).toEqual(['definition-signature stop'])
    expect(checkDefinition(definition, [{ address: 0x2000, bytes: new Uint8Array(0x400) }])).toMatchObject([
      { rule: 'definition-signature', level: 'stop' },
    ])
  })
  it('stops where an axis in the image does not rise, equal breakpoints included', () => {
    expect(levels(image((bytes) => bytes.copyWithin(0x112, 0x110, 0x112)))).toContain('axis-falls stop')
  })
  it('stops at a figure one step outside its limits, and not at the limit', () => {
    expect(levels(image((bytes) => (bytes[0x120] = 201)))).toContain('table-implausible stop')
    expect(levels(image((bytes) => (bytes[0x120] = 9)))).toContain('table-implausible stop')
    expect(levels(image((bytes) => (bytes[0x120] = 200)))).toContain('tables-plausible go')
    expect(levels(image((bytes) => (bytes[0x120] = 10)))).toContain('tables-plausible go')
  })
  it('stops where the image ends before a table does', () => {
    expect(levels([{ address: 0x1000, bytes: image()[0]!.bytes.slice(0, 0x120) }])).toContain(
      'table-outside stop',
    )
  })
  it('takes no figure that is none', () => {
    const floating = {
      ...document,
      tables: [{ id: 'f', name: 'f', address: '0x1120', type: 'f32' as const }],
    }
    const nan = image((bytes) => bytes.set([0, 0, 0xc0, 0x7f], 0x120))
    expect(checkDefinition(readDefinitionDocument(floating), nan).at(-1)).toMatchObject({
      rule: 'table-implausible',
    })
  })
})

describe('what a revision changes', () => {
  it('names tables, cells and steps', () => {
    const { bytes, tables, findings } = compareRevisions(
      definition,
      image(),
      image((each) => {
        new DataView(each.buffer).setInt16(0x102, 70)
        new DataView(each.buffer).setInt16(0x10a, 190)
        each[0x3ff] = 9
      }),
    )
    expect(bytes).toBe(3)
    expect(tables).toMatchObject([{ table: { id: 'torque' }, cells: 2, largest: { down: -5, up: 5 } }])
    expect(findings).toMatchObject([{ rule: 'calibration-only', level: 'go' }])
  })
  it('stops at one byte outside of the calibration, and names its address', () => {
    const { findings } = compareRevisions(
      definition,
      image(),
      image((each) => (each[0x200] = 1)),
    )
    expect(findings).toMatchObject([{ rule: 'calibration-only', level: 'stop', numbers: { bytes: 1 } }])
    expect(findings[0]!.because).toContain('1200')
  })
  it.each([0x0ff, 0x200, 0x3fb])('counts the byte beside a region as outside: 0x%s', (at) => {
    expect(
      compareRevisions(
        definition,
        image(),
        image((each) => (each[at] = 1)),
      ).findings[0],
    ).toMatchObject({ level: 'stop' })
  })
  it.each([0x100, 0x1ff, 0x004, 0x007, 0x3fc])(
    'lets the first and the last byte of a region change: %d',
    (at) => {
      expect(
        compareRevisions(
          definition,
          image(),
          image((each) => (each[at]! ^= 1)),
        ).findings[0],
      ).toMatchObject({ level: 'go' })
    },
  )
  it('stops where a revision sets bytes that the one before did not', () => {
    const longer: MemoryMap = [...image(), { address: 0x4000, bytes: Uint8Array.of(1, 2) }]
    expect(compareRevisions(definition, image(), longer).findings[0]).toMatchObject({
      level: 'stop',
      numbers: { bytes: 2 },
    })
    expect(compareRevisions(definition, longer, image()).findings[0]).toMatchObject({
      level: 'stop',
      numbers: { bytes: 2 },
    })
  })
  it('says which bytes of the calibration no table names', () => {
    const { findings, unnamedBytes } = compareRevisions(
      definition,
      image(),
      image((each) => (each[0x1f0] = 1)),
    )
    expect(unnamedBytes).toBe(1)
    expect(findings.map(({ rule }) => rule)).toContain('unnamed-change')
  })
  it('sees a moved breakpoint', () => {
    const { tables, unnamedBytes } = compareRevisions(
      definition,
      image(),
      image((each) => (each[0x113] = 0xff)),
    )
    expect(tables).toMatchObject([{ table: { id: 'torque' }, cells: 0, largest: null }])
    expect(unnamedBytes).toBe(0)
  })
  it('holds the same bytes again', () => {
    expect(compareRevisions(definition, image(), image()).findings).toMatchObject([
      { rule: 'revision-same', level: 'hold' },
    ])
  })
})
