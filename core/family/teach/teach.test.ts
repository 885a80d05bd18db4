/* eslint-disable @typescript-eslint/no-explicit-any -- documents are looked into by member */
import { checksumOf } from '@bench-wake/core/link'
import { describe, expect, it } from 'vitest'
import {
  checkFamily,
  checksumNamed,
  checksumNames,
  emptyDraft,
  guessMarks,
  markOf,
  nextPiece,
  pieceOfFault,
  pieces,
  pieceStates,
  profileOf,
  promptOf,
  readDraft,
  shortName,
  trialMark,
  type TeachDraft,
} from '..'
import { asciiBytes } from '../../kernel'

const said = 'ver\r\nTG-4 board 2\r\nfw 1.3\r\nserial TG4-0117\r\n=> '
const mark = (heard: string, text: string, slot?: string) =>
  markOf(heard, heard.indexOf(text), heard.indexOf(text) + text.length, slot)

describe('a marked text', () => {
  it('makes a template of the line it stands in', () => {
    expect(mark(said, '1.3')).toEqual({ template: 'fw {value}', value: '1.3' })
    expect(mark(said, 'TG4-0117')).toEqual({ template: 'serial {value}', value: 'TG4-0117' })
    expect(mark(said, '2')).toEqual({ template: 'TG-4 board {value}', value: '2' })
    expect(mark('error 12: range\r\n', '12: range', 'reason')).toEqual({
      template: 'error {reason}',
      value: '12: range',
    })
    expect(mark('at 3 of 9 sectors\n', '3', 'done')!.template).toBe('at {done} of 9 sectors')
  })
  it('loses blanks at its ends, and stands as well in the first line as in the last', () => {
    expect(mark('v  7.2 ', '  7.2 ')).toEqual({ template: 'v  {value}', value: '7.2' })
    expect(mark('7.2 beta\nx', '7.2')!.template).toBe('{value} beta')
  })
  it.each([
    ['nothing', said, 'x', 0],
    ['blanks alone', 'a  b', '  ', 2],
    ['over the end of a line', said, '1.3\r\nserial', 11],
  ])('is none of %s', (_, heard, text, length) => {
    const from = heard.indexOf(text)
    expect(markOf(heard, Math.max(0, from), Math.max(0, from) + length)).toBeNull()
  })
  it('is none where the line has braces of its own: they would be taken for a slot', () => {
    expect(mark('{ver} 1.3\n', '1.3')).toBeNull()
    expect(mark('{a}\n1.3\n', '1.3')).not.toBeNull()
  })
  it('of the prompt is what follows the last line without an end of its own', () => {
    expect(promptOf(said)).toBe('=> ')
    expect(promptOf('ok\r\n')).toBeNull()
    expect(promptOf('ok\r\n   ')).toBeNull()
    expect(promptOf('boot> ')).toBe('boot> ')
    expect(promptOf('{x}> ')).toBeNull()
  })
})

describe('what is offered in a page', () => {
  // Common practice: how units name the lines of their page.
  it.each([
    ['fw 1.3\r\n', [['version.main', 'fw {value}', '1.3']]],
    [
      'Firmware: v2.48.1\nS/N: 00417\n',
      [
        ['version.main', 'Firmware: {value}', 'v2.48.1'],
        ['serial', 'S/N: {value}', '00417'],
      ],
    ],
    ['TG-4 board 2\n', [['hardware', 'TG-4 board {value}', '2']]],
    [
      'model FS-20, hw rev3\n',
      [
        ['hardware', 'model FS-20, hw {value}', 'rev3'],
        ['deviceIdentifier', 'model {value}, hw rev3', 'FS-20'],
      ],
    ],
    ['uptime 3.5 hours\nfree 2048\n', []],
    ['version unknown\n', []],
  ])('%j', (heard, wanted) => {
    expect(guessMarks(heard).map(({ field, template, value }) => [field, template, value])).toEqual(wanted)
  })
  it('is one of each, the first', () => {
    expect(guessMarks('fw 1.3\nversion 9.9\n').map(({ value }) => value)).toEqual(['1.3'])
  })
})

/** The tide gate, as its manual page (e2e/peers/prompt_console.md) and its console give it away. */
const tideGate: TeachDraft = {
  ...emptyDraft(),
  lineKnown: true,
  about: {
    name: 'Tide gate controller',
    id: 'tide-gate',
    summary: 'Opens and shuts a tide gate.',
    deviceIdentifier: 'TG-4',
  },
  ends: { by: 'prompt', text: '=> ' },
  refused: '?{reason}',
  page: {
    sends: 'ver',
    facts: [
      { field: 'version.main', label: 'Firmware', reads: 'fw {value}', seen: '1.3' },
      { field: 'serial', label: 'Serial', reads: 'serial {value}', seen: 'TG4-0117' },
      { field: 'hardware', label: 'Hardware', reads: 'TG-4 board {value}', seen: '2' },
    ],
  },
  memory: { address: '0x8000', length: '0x8000', sectorBytes: 4096 },
  entry: { how: 'command', sends: 'boot', settleMs: 500 },
  attach: { sends: '', by: 'prompt', text: 'boot> ' },
  erase: { sends: 'erase {address:hex} {length:hex}', progress: 'erased {done}/{total}', withinMs: 10_000 },
  write: {
    sends: 'stage {length}',
    announces: 'send',
    by: 'plain',
    then: 'burn {address:hex}',
    pieceBytes: 1024,
  },
  check: { sends: 'crc {address:hex} {length:hex}', answers: '{sum:hex4}', checksum: 'CRC-16/IBM-3740' },
  read: { sends: 'dump {address:hex} {length:hex}', line: '{at:hex6}: {row:bytes} |' },
  start: { sends: 'go' },
  power: { nominalVolts: 12, floorVolts: 11, ceilingVolts: 15 },
}

describe('a draft', () => {
  it('that is whole makes a profile without a fault', () => {
    expect(checkFamily(profileOf(tideGate)).faults).toEqual([])
  })
  // A prompt that comes late would stand before the answer to the next question ("boot> a285").
  it('waits for the prompt after every answer that it follows', () => {
    const drive = profileOf(tideGate).links[0]!.drive
    if (drive?.speaks !== 'script') throw new Error('no script')
    const stepsOf = (of: typeof drive, name: 'check' | 'read') => JSON.stringify(of.operations[name]!.steps)
    for (const name of ['check', 'read'] as const)
      expect(stepsOf(drive, name), name).toContain('"text":"boot> "')
    const byLine = profileOf({ ...tideGate, attach: { sends: 'hi', by: 'line', text: 'loader' } }).links[0]!
      .drive
    expect(byLine?.speaks === 'script' && stepsOf(byLine, 'check')).not.toContain('boot> ')
  })
  it('takes the hardware that it saw for the one there is, and says by which line', () => {
    const { revisions } = profileOf(tideGate).hardware
    expect(revisions).toEqual([
      {
        major: 2,
        name: 'Board 2',
        identifiedBy: { by: 'link', says: 'The number in the line “TG-4 board …”.' },
      },
    ])
    expect(profileOf(emptyDraft()).hardware.revisions[0]!.major).toBe(1)
  })
  it('that knows nothing points at what a profile cannot do without, and leaves the rest out', () => {
    const document = profileOf(emptyDraft())
    const at = checkFamily(document).faults.map((fault) => fault.at)
    for (const place of [
      'id',
      'name',
      'summary',
      'hardware.deviceIdentifier',
      'components.0.memory.regions.0.address',
    ])
      expect(at).toContain(place)
    expect((document.links[0]!.drive as { operations: object }).operations).toEqual({})
  })
  it.each(['page', 'entry', 'attach', 'erase', 'write', 'check', 'read', 'start'] as const)(
    'without its %s has no such operation and still reads',
    (piece) => {
      const document = profileOf({ ...tideGate, [piece]: null })
      expect(checkFamily(document).faults).toEqual([])
      const own = piece === 'entry' ? 'enter' : piece
      const names = Object.keys((document.links[0]!.drive as { operations: object }).operations)
      expect(names).not.toContain(own)
      expect(names.length).toBe(7)
    },
  )
  it('by hand has its words as the way in, and no command', () => {
    const { entry } = profileOf({ ...tideGate, entry: { how: 'hand', does: 'Hold the key.', settleMs: 700 } })
    expect(entry).toEqual([
      { id: 'by-hand', name: 'By hand', kind: 'by-hand', steps: ['Hold the key.'], settleMs: 700, tries: 3 },
    ])
  })
  it('of a unit whose answers end by a line waits for that line', () => {
    const lines = profileOf({
      ...tideGate,
      ends: { by: 'line', text: 'ok' },
      attach: { sends: '', by: 'line', text: 'boot ready' },
    })
    expect(checkFamily(lines).faults).toEqual([])
    const { operations } = lines.links[0]!.drive as any
    expect(operations.page.steps[1].until[0]).toEqual({ line: 'ok' })
    expect(operations.attach.steps[1].patterns[0]).toEqual({ line: 'boot ready' })
    // What the bootloader shows itself by is not what ends its answers.
    expect(operations.erase.steps[1].patterns[0]).toEqual({ line: 'ok' })
  })
  it('sends record lines with an answer to each, and block transfers without', () => {
    const write = { sends: '', announces: '', then: '', pieceBytes: null }
    const steps = (by: 'srec-lines' | 'xmodem-1k') =>
      (profileOf({ ...tideGate, write: { ...write, by } }).links[0]!.drive as any).operations.write.steps
    expect(steps('srec-lines')).toEqual([
      {
        do: 'transfer',
        by: 'srec-lines',
        answer: [{ text: 'boot> ' }, { line: '?{reason}', means: 'refused' }],
        withinMs: 2000,
      },
    ])
    expect(steps('xmodem-1k')[0]).toEqual({ do: 'transfer', by: 'xmodem-1k' })
  })
  // The loader of e2e/peers/record_lines.md: `*` for erased, `.` for each line, and no prompt at all.
  it('ends an act by its own line, where the unit has another for each', () => {
    const { operations } = profileOf({
      ...tideGate,
      ends: null,
      refused: '!{reason}',
      attach: { sends: 'i', by: 'line', text: 'LM2 loader 1.0' },
      erase: { sends: 'e', progress: '', withinMs: 5000, done: '*' },
      write: { sends: '', announces: '', by: 'srec-lines', then: '', pieceBytes: null, done: '.' },
    }).links[0]!.drive as any
    expect(operations.erase.steps[1].patterns).toEqual([
      { line: '*' },
      { line: '!{reason}', means: 'refused' },
    ])
    expect(operations.write.steps[0]).toMatchObject({
      by: 'srec-lines',
      answer: [{ line: '.' }, { line: '!{reason}', means: 'refused' }],
    })
    // Empty is as before: by what ends its other answers.
    const empty = profileOf({ ...tideGate, erase: { ...tideGate.erase!, done: ' ' } }).links[0]!.drive as any
    expect(empty.operations.erase.steps[1].patterns[0]).toEqual({ text: 'boot> ' })
  })
  it('is kept and read again; another thing is none', () => {
    expect(readDraft(JSON.parse(JSON.stringify(tideGate)))).toEqual(tideGate)
    for (const other of [null, {}, { ...tideGate, line: { baudRate: 0 } }])
      expect(readDraft(other)).toBeNull()
  })
})

describe('the pieces', () => {
  it('are asked for in their order, one at a time, until none is left', () => {
    expect(nextPiece(emptyDraft())).toBe('line')
    expect(nextPiece({ ...emptyDraft(), lineKnown: true, page: tideGate.page, ends: tideGate.ends })).toBe(
      'about',
    )
    expect(nextPiece(tideGate)).toBeNull()
    for (const { id } of pieces) {
      if (id === 'line' || id === 'about' || id === 'page') continue
      expect(nextPiece({ ...tideGate, [id]: null }), id).toBe(id)
    }
    // A page without its version is half known.
    expect(nextPiece({ ...tideGate, page: { sends: 'ver', facts: [] } })).toBe('page')
  })
  it('are tried as they stand, and no more once their steps or their line change', () => {
    const trials = { page: trialMark(tideGate, 'page')!, erase: trialMark(tideGate, 'erase')! }
    const state = (draft: TeachDraft, piece: string) =>
      pieceStates(draft, trials).find(({ id }) => id === piece)!.state
    expect(state(tideGate, 'page')).toBe('tried')
    expect(state(tideGate, 'check')).toBe('known')
    expect(state({ ...tideGate, page: { ...tideGate.page!, sends: 'version' } }, 'page')).toBe('known')
    expect(state({ ...tideGate, line: { ...tideGate.line, baudRate: 9600 } }, 'page')).toBe('known')
    expect(state({ ...tideGate, power: null }, 'page')).toBe('tried')
    expect(state({ ...tideGate, erase: null }, 'erase')).toBe('not-known')
  })
  it('are where a fault of the profile leads back to', () => {
    const from = (draft: TeachDraft) => [
      ...new Set(checkFamily(profileOf(draft)).faults.map(({ at }) => pieceOfFault(at))),
    ]
    expect(from(emptyDraft())).toEqual(expect.arrayContaining(['about', 'memory']))
    expect(from({ ...tideGate, power: null })).toEqual(['power'])
    expect(from({ ...tideGate, memory: null })).toEqual(['memory'])
    expect(from({ ...tideGate, check: { ...tideGate.check!, answers: '{sum}{x}' } })).toEqual(['check'])
    expect(from({ ...tideGate, page: { sends: '{pin}', facts: tideGate.page!.facts } })).toEqual(['page'])
    expect(pieceOfFault('stages.write')).toBeNull()
  })
  it('know their line once its speed was found or said; words out of a file say nothing about it', () => {
    const line = (draft: TeachDraft) => pieceStates(draft, {}).find(({ id }) => id === 'line')!.state
    expect(line(emptyDraft())).toBe('not-known')
    expect(line({ ...emptyDraft(), lineKnown: true })).toBe('known')
    expect(line({ ...tideGate, lineKnown: false })).toBe('not-known')
  })
  it('have a short name made of the name', () => {
    expect(shortName('Tide gate, Nº 4 (süd)')).toBe('tide-gate-no-4-sud')
    expect(shortName('  ')).toBe('')
  })
})

// Source: the check values of the catalogue of parametrised CRC algorithms over "123456789" (from memory of the catalogue).
describe('a checksum by its name', () => {
  it.each([
    ['CRC-16/IBM-3740', 0x29b1],
    ['CRC-16/XMODEM', 0x31c3],
    ['CRC-16/KERMIT', 0x2189],
    ['CRC-16/MODBUS', 0x4b37],
    ['CRC-16/ARC', 0xbb3d],
    ['CRC-32/MPEG-2', 0x0376e6e7],
    ['CRC-32/BZIP2', 0xfc891918],
    ['CRC-8/SMBUS', 0xf4],
    ['crc32', 0xcbf43926],
  ] as const)('%s', (name, value) => {
    expect(checksumOf(checksumNamed(name), asciiBytes('123456789'))).toBe(value)
  })
  it('is one for each that is offered', () => {
    for (const name of checksumNames)
      expect(checksumOf(checksumNamed(name), asciiBytes('x'))).toBeGreaterThan(0)
  })
})
