import { describe, expect, it } from 'vitest'
import { commandTemplate, draftFrom, dumpTemplate, emptyDraft, sumTemplate, type TeachDraft } from '..'

/* Lines as consoles of small bootloaders print them (common practice; the first is e2e/peers/prompt_console.md). */
const memory = { address: '0x8000', length: '0x8000', sectorBytes: 0x1000 }

describe('a command that was sent', () => {
  it.each([
    ['erase 8000 1000', 'erase {address:hex} {length:hex}'],
    ['erase 8000 8000', 'erase {address:hex} {length:hex}'],
    ['er 0x00008000,0x00001000', 'er 0x{address:hex8},0x{length:hex8}'],
    ['crc 9000 4096', 'crc {address:hex} {length}'],
    // 32 768 is 8000 in hexadecimal; 32768 read as that lies far outside.
    ['erase 32768 4096', 'erase {address} {length}'],
    ['erase 0x32768 4096', 'erase 0x32768 4096'],
    ['dump 8f00 2000', 'dump {address:lhex} {length:hex}'],
    ['fill 8000 10', 'fill {address:hex} 10'],
    ['go', 'go'],
    ['8000 1000', '8000 {address:hex}'.replace('{address:hex}', '1000')],
  ])('%s becomes %s', (sent, template) => {
    expect(commandTemplate(sent, memory)).toBe(template)
  })
  it.each([
    ['7fff', false],
    ['8000', true],
    ['ffff', true],
    ['10000', false],
  ])('has an address only inside the memory: %s', (address, inside) => {
    expect(commandTemplate(`rd ${address}`, memory).includes('{address')).toBe(inside)
  })
  it('keeps its numbers where the memory is not known', () => {
    expect(commandTemplate('erase 8000 1000', null)).toBe('erase 8000 1000')
  })
})

describe('what came back', () => {
  it.each([
    ['dump\r\n008000: 01 02 03 04 05 06  |......|\r\nboot> ', '{at:hex6}: {row:bytes}  |'],
    ['00008000  de ad be ef 00 11\r\n', '{at:hex8}  {row:bytes}'],
    ['0x8a00: 0102 \r\nok\r\n', null],
  ])('is a dump: %j', (heard, template) => {
    expect(dumpTemplate(heard)).toBe(template)
  })
  it.each([
    ['29b1\r\nboot> ', '{sum:hex4}'],
    ['crc32 = 0xCBF43926 ok\r\n', 'crc32 = 0x{sum:hex8} ok'],
    ['over 8000: 29b1\r\n', 'over 8000: {sum:hex4}'],
    ['feed\r\ndone\r\n', null],
  ])('has its sum: %j', (heard, template) => {
    expect(sumTemplate(heard)).toBe(template)
  })
})

describe('an exchange', () => {
  const draft: TeachDraft = { ...emptyDraft(), memory }
  const said = (sent: string, heard: string) => ({ sent, heard })
  it('says what the piece is that is asked about', () => {
    expect(draftFrom(draft, 'page', said('ver', 'fw 1.3\r\n=> '))).toEqual({
      page: { sends: 'ver', facts: [] },
      ends: { by: 'prompt', text: '=> ' },
    })
    expect(draftFrom(draft, 'entry', said('boot', 'boot> '))).toEqual({
      entry: { how: 'command', sends: 'boot', settleMs: 1000 },
    })
    expect(draftFrom(draft, 'attach', said('', '\r\nboot> '))).toEqual({
      attach: { sends: '', by: 'prompt', text: 'boot> ' },
    })
    expect(draftFrom(draft, 'attach', said('i', 'LM2\r\nloader 1.0\r\n'))).toEqual({
      attach: { sends: 'i', by: 'line', text: 'loader 1.0' },
    })
    expect(draftFrom(draft, 'start', said('go', 'bye\r\n'))).toEqual({ start: { sends: 'go' } })
    expect(draftFrom(draft, 'write', said('load 8000', 'send now\r\n'))?.write).toMatchObject({
      sends: 'load {address:hex}',
      announces: 'send now',
    })
  })
  it('leaves what it does not say: a page keeps its lines, a check its sum, a known end stays', () => {
    const facts = [{ field: 'serial', label: 'Serial', reads: 'serial {value}', seen: '7' }]
    const known: TeachDraft = {
      ...draft,
      page: { sends: 'v', facts },
      ends: { by: 'line', text: 'ok' },
      check: { sends: '', answers: 'sum {sum:hex8}', checksum: 'adler32' },
      erase: { sends: '', progress: '{done}/{total}', withinMs: 9000 },
    }
    expect(draftFrom(known, 'page', said('ver', '=> '))).toEqual({ page: { sends: 'ver', facts } })
    expect(draftFrom(known, 'check', said('crc 8000 1000', 'none\r\n'))?.check).toEqual({
      sends: 'crc {address:hex} {length:hex}',
      answers: 'sum {sum:hex8}',
      checksum: 'adler32',
    })
    expect(draftFrom(known, 'erase', said('erase 8000 1000', 'ok\r\n'))?.erase).toMatchObject({
      progress: '{done}/{total}',
      withinMs: 9000,
    })
  })
  it.each(['line', 'about', 'memory', 'power'] as const)('says nothing about the %s', (piece) => {
    expect(draftFrom(draft, piece, said('x', 'y'))).toBeNull()
  })
})
