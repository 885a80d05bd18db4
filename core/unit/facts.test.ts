import type { Family } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { factsOf, knownPage, lineOf, readPage, readSnapshot, versionsText, type Snapshot } from '.'

/* PRACTICE A1 to A5, common practice: what a page tells, and what it leaves unknown. */

const page = (lines: Record<string, string>, form: Partial<Snapshot> = {}): Snapshot => ({
  at: 1,
  source: 'link',
  lines: Object.entries(lines).map(([field, value]) => ({ field, label: field, value })),
  ...form,
})
/** A family whose revisions are told by signs. */
const signed = (markings: { field: string; startsWith: string }[][]): Family =>
  ({
    hardware: {
      revisions: markings.map((own, index) => ({ major: index + 1, name: `R${index + 1}`, markings: own })),
    },
  }) as unknown as Family
const unsigned = { hardware: { revisions: [{ major: 3, name: 'R3' }] } } as unknown as Family

describe('facts of a page', () => {
  it('hold every line that fit rests on', () => {
    expect(
      factsOf(
        page({
          deviceIdentifier: 'FS-20',
          hardware: '12.4',
          model: 'L',
          serial: 'S1',
          batch: 'K3',
          layout: 'A',
          'version.main': '2.41',
          'version.panel': '3.4',
          'options.main': 'watchdog',
          'digest.main': 'ABCDEF',
          'sequence.main': '17',
          hours: '9',
        }),
        unsigned,
      ),
    ).toEqual({
      readAt: 1,
      source: 'link',
      deviceIdentifier: 'FS-20',
      hardware: '12.4',
      hardwareMajor: 12,
      model: 'L',
      serial: 'S1',
      batch: 'K3',
      layout: 'A',
      versions: { main: '2.41', panel: '3.4' },
      options: { main: 'watchdog' },
      digests: { main: 'abcdef' },
      sequences: { main: 17 },
    })
  })
  it('leave unknown what was not said, and take no sequence that is no number', () => {
    expect(factsOf(page({}))).toEqual({ readAt: 1, source: 'link', versions: {} })
    for (const odd of ['x17', '17x', '', '1.7', '1234567890123456', '-1'])
      expect(factsOf(page({ 'sequence.main': odd })).sequences, odd).toBeUndefined()
    expect(factsOf(page({ 'sequence.a': '1', 'sequence.b': '123456789012345' })).sequences).toEqual({
      a: 1,
      b: 123456789012345,
    })
  })
  it('join options, digests and sequences of several components', () => {
    const facts = factsOf(
      page({ 'options.a': 'x', 'options.b': 'y', 'digest.a': '1', 'digest.b': '2', 'version.a': '1' }),
    )
    expect(facts).toMatchObject({
      options: { a: 'x', b: 'y' },
      digests: { a: '1', b: '2' },
      versions: { a: '1' },
    })
  })
  it('take the major from the line hardware only where no sign tells it', () => {
    expect(factsOf(page({ hardware: 'rev 3' }), unsigned).hardwareMajor).toBeUndefined()
    expect(factsOf(page({ hardware: '3.1' }), unsigned).hardwareMajor).toBe(3)
    expect(factsOf(page({}), unsigned).hardwareMajor).toBeUndefined()
    expect(factsOf(page({ hardware: '3.1' })).hardwareMajor).toBe(3)
    const family = signed([[{ field: 'chip', startsWith: 'A' }], []])
    expect(factsOf(page({ hardware: '3.1' }), family).hardwareMajor).toBeUndefined()
  })
  it('tell the revision by its sign, whatever spaces stand before it', () => {
    const family = signed([[{ field: 'chip', startsWith: 'XA' }], [{ field: 'chip', startsWith: 'XB' }]])
    expect(factsOf(page({ chip: ' XB70' }), family)).toMatchObject({ hardwareMajor: 2, hardware: 'R2' })
    expect(factsOf(page({ chip: 'XB70', hardware: '9.9' }), family)).toMatchObject({
      hardwareMajor: 2,
      hardware: '9.9',
    })
    // The sign stands at the beginning and not somewhere, and on its own line.
    expect(factsOf(page({ chip: '70XB' }), family)).toMatchObject({ unknownSign: 'chip 70XB' })
    expect(factsOf(page({ board: 'XB70' }), family).hardwareMajor).toBeUndefined()
    expect(factsOf(page({ board: 'XB70' }), family).unknownSign).toBeUndefined()
  })
  it('settle nothing where two signs disagree, and name both', () => {
    const family = signed([
      [{ field: 'chip', startsWith: 'XA' }],
      [{ field: 'version.main', startsWith: '58.' }],
    ])
    const facts = factsOf(page({ chip: 'XA1', 'version.main': '58.04' }), family)
    expect(facts.hardwareMajor).toBeUndefined()
    expect(facts.contradiction).toBe('chip XA1 tells R1; version.main 58.04 tells R2')
    const agree = factsOf(page({ chip: 'XA1', 'version.main': '31.04' }), family)
    expect(agree).toMatchObject({ hardwareMajor: 1 })
    expect(agree.contradiction).toBeUndefined()
    expect(factsOf(page({ chip: 'Q', 'version.main': '31.04' }), family).unknownSign).toBe(
      'chip Q; version.main 31.04',
    )
  })
})

describe('what is known over all pages', () => {
  const label = page({ serial: 'S1', mark: 'R2' }, { source: 'label' })
  const chip = page({ chip: 'XA' }, { source: 'chip-marking' })
  it('keeps what a label and a chip show for good, and says where it was read', () => {
    const known = knownPage([label, chip, page({ 'version.main': '1' }, { at: 5, source: 'menu' })])!
    expect(known).toMatchObject({ at: 5, source: 'menu' })
    expect(known.lines.map(({ field, source }) => [field, source])).toEqual([
      ['version.main', undefined],
      ['serial', 'label'],
      ['mark', 'label'],
      ['chip', 'chip-marking'],
    ])
  })
  it('a line the unit says outweighs the label’s; the newer label outweighs the older', () => {
    const said = page({ serial: 'S2' })
    expect(knownPage([label, said])!.lines.filter(({ field }) => field === 'serial')).toHaveLength(1)
    expect(lineOf(knownPage([label, said]), 'serial')).toBe('S2')
    const second = page({ serial: 'S3' }, { source: 'label' })
    expect(lineOf(knownPage([label, second]), 'serial')).toBe('S3')
    expect(lineOf(knownPage([second, label]), 'serial')).toBe('S1')
  })
  it('is a label’s page where the unit said nothing yet, and nothing without pages', () => {
    expect(knownPage([label])).toMatchObject({
      source: 'label',
      lines: [{ field: 'serial' }, { field: 'mark' }],
    })
    expect(knownPage([])).toBeUndefined()
  })
  it('keeps a single line that was read off a label within another page', () => {
    const mixed: Snapshot = {
      at: 2,
      source: 'menu',
      lines: [
        { field: 'serial', label: 'Serial', value: 'S7', source: 'label' },
        { field: 'version.main', label: 'Main', value: '1' },
      ],
    }
    const known = knownPage([mixed, page({ 'version.main': '2' }, { at: 3 })])!
    expect(lineOf(known, 'serial')).toBe('S7')
    expect(known.lines.find(({ field }) => field === 'serial')!.source).toBe('label')
    expect(lineOf(known, 'version.main')).toBe('2')
  })
})

describe('versions on one line', () => {
  it.each([
    [{}, ''],
    [{ main: '2.41' }, 'main 2.41'],
    [{ power: '3.4', panel: '3.4' }, 'power 3.4, panel 3.4'],
    [{ a: '1', b: '1', c: '1' }, 'all 3 at 1'],
    [{ a: '1', b: '1', c: '2' }, 'a 1, b 1, c 2'],
    [{ a: '2', b: '1', c: '1' }, 'a 2, b 1, c 1'],
  ] as [Record<string, string>, string][])('%o is "%s"', (versions, text) =>
    expect(versionsText(versions)).toBe(text),
  )
})

describe('a page of text', () => {
  const inverter = demoFamily('station-inverter')
  it('is read line by line, whatever ends a line, and in the order of the family’s own page', () => {
    const read = readPage(inverter, '\nSerial: LI-1\rHardware: 5.2\r\n\n  Model:LI-50  ', 7, 'app')
    expect(read).toMatchObject({ at: 7, source: 'app' })
    const order = inverter.snapshot.map(({ field }) => field)
    const fields = read.lines.map(({ field }) => field)
    expect(fields).toEqual([...fields].sort((a, b) => order.indexOf(a) - order.indexOf(b)))
    expect(Object.fromEntries(read.lines.map(({ field, value }) => [field, value]))).toEqual({
      model: 'LI-50',
      hardware: '5.2',
      serial: 'LI-1',
    })
  })
  it('takes a label only with something between it and its value', () => {
    const value = (text: string) => lineOf(readPage(inverter, text, 1, 'app'), 'serial')
    for (const text of [
      'Serial: A',
      'Serial = A',
      'serial=A',
      'Serial .. A',
      'Serial\tA',
      'Serial  A',
      'SERIAL:  A ',
    ])
      expect(value(text), text).toBe('A')
    for (const text of ['Serial A', 'SerialA', 'Serial:', 'My serial: A', 'Serial . A', 'Serial'])
      expect(value(text), text).toBeUndefined()
  })
  it('keeps a line twice said as one of the family and one beside it', () => {
    const read = readPage(inverter, 'Serial: A\nSerial: B', 1, 'app')
    expect(read.lines).toEqual([
      { field: 'serial', label: 'Serial', value: 'A' },
      { field: 'other.1', label: 'Other line', value: 'Serial: B' },
    ])
  })
  it('is empty for lines of nothing but space', () => {
    expect(readSnapshot(inverter, ['', '   '], 1, 'link').lines).toEqual([])
    expect(lineOf(undefined, 'serial')).toBeUndefined()
  })
})

// "It does not start" is an answer about the unit and no page of it: what was read before is still what is known (PRACTICE A1).
describe('a page with nothing on it', () => {
  const sheet = (at: number, lines: Record<string, string>, more: Partial<Snapshot> = {}): Snapshot => ({
    at,
    source: 'menu',
    lines: Object.entries(lines).map(([field, value]) => ({ field, label: field, value })),
    ...more,
  })
  const read = sheet(1, { 'version.main': '2.41', serial: 'FS3-00417' })
  it.each([
    ['without a line', sheet(2, {})],
    ['with lines of blanks alone', sheet(2, { 'version.main': '  ', serial: '' })],
  ])('%s never outweighs one that was read', (_what, empty) => {
    expect(knownPage([read, empty])).toEqual(knownPage([read]))
    expect(knownPage([empty, read])).toEqual(knownPage([read]))
  })
  it('alone is no page', () => {
    expect(knownPage([sheet(2, {})])).toBeUndefined()
  })
  it('of a bootloader that says nothing tells that it is one', () => {
    const known = knownPage([read, sheet(2, {}, { inBootloader: true })])
    expect(known).toMatchObject({ at: 2, inBootloader: true })
    expect(known!.lines.map(({ value }) => value)).toContain('2.41')
  })
  it('that says one thing is the newest', () => {
    expect(knownPage([read, sheet(2, { 'version.main': '2.48' })])!.lines.map(({ value }) => value)).toEqual([
      '2.48',
    ])
  })
})
