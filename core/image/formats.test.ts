import { demoFamilyList, elfOf, hexOf } from '@bench-wake/demo'
import fc from 'fast-check'
import { zipSync } from 'fflate'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { crc32 as crc32Of } from 'crc'
import { afterAll, describe, expect, it } from 'vitest'
import { asciiBytes, isProblem } from '../kernel'
import {
  dfuCrc,
  readDfuSuffix,
  readElf,
  readFile,
  readImageFile,
  readIntelHex,
  readSRecord,
  readUf2,
  readZip,
  writableFormats,
  writeDfuSuffix,
  writeImage,
  writeSRecord,
  writeUf2,
  zipLimits,
  type MemoryMap,
} from '.'
import { refusal } from './refusal.test-support'

const folder = mkdtempSync(join(tmpdir(), 'bench-wake-formats-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 37 + (at >> 8) * 11) & 255)
const srec = (text: string) => readSRecord(asciiBytes(text))

describe('S-record', () => {
  // Source: Motorola, M68000 Family Programmer's Reference Manual, appendix C: the example module (from memory).
  const manual = `S00600004844521B
S1130000285F245F2212226A000424290008237C2A
S11300100002000800082629001853812341001813
S113002041E900084E42234300182342000824A952
S107003000144ED492
S9030000FC`
  it('reads the manual’s own example', () => {
    const { memory, header, records } = srec(manual)
    expect(header).toBe('HDR')
    expect(records).toBe(6)
    expect(memory).toHaveLength(1)
    expect(memory[0]!.address).toBe(0)
    expect(memory[0]!.bytes).toHaveLength(0x34)
    expect([...memory[0]!.bytes.subarray(0, 4)]).toEqual([0x28, 0x5f, 0x24, 0x5f])
    expect([...memory[0]!.bytes.subarray(-4)]).toEqual([0x00, 0x14, 0x4e, 0xd4])
  })
  // Reference: objcopy of GNU binutils, both ways, in each width of address.
  it.each([
    [0x0000, 300],
    [0x8000, 5000],
    [0x12_0000, 5000],
    [0x0800_8000, 70_001],
  ])('goes both ways with objcopy from 0x%s, %i bytes', (address, length) => {
    const bytes = patterned(length)
    const [bin, out, back] = ['a.bin', 'a.srec', 'b.bin'].map((name) => join(folder, name)) as [
      string,
      string,
      string,
    ]
    writeFileSync(bin, bytes)
    execFileSync('objcopy', ['-I', 'binary', '-O', 'srec', `--change-addresses=${address}`, bin, out])
    expect(readImageFile(readFileSync(out)).memory).toEqual([{ address, bytes }])
    writeFileSync(out, writeSRecord([{ address, bytes }]))
    execFileSync('objcopy', ['-I', 'srec', '-O', 'binary', out, back])
    expect(readFileSync(back).equals(Buffer.from(bytes))).toBe(true)
  })
  it.each([
    ['a wrong checksum', manual.replace('92\nS9', '93\nS9'), 'srec-checksum', 5],
    ['a cut record', manual.replace('S107003000144ED492\nS9030000FC', 'S1070030001'), 'srec-truncated', 5],
    ['no end record', manual.replace('\nS9030000FC', ''), 'srec-no-end', 5],
    ['a wrong count of records', manual.replace('S9', 'S5030009F3\nS9'), 'srec-count', 6],
    ['the reserved type', manual.replace('S107', 'S407'), 'srec-type', 5],
    ['a letter that is no digit', manual.replace('4ED492', '4EX492'), 'srec-digit', 5],
    ['a line that goes on', manual.replace('4ED492', '4ED49200'), 'srec-length', 5],
    ['a record after the end', `${manual}\n${manual}`, 'srec-after-end', 7],
    ['data set twice', manual.replace('S9', 'S1050030AABB65\nS9'), 'srec-overlap', 6],
  ])('refuses %s with its line', (_, text, kind, line) => {
    expect(refusal(() => srec(text))).toMatchObject({ kind, place: { line } })
  })
})

describe('ELF32', () => {
  const parts: MemoryMap = [
    { address: 0x0800_0000, bytes: patterned(700) },
    { address: 0x2000_0000, bytes: patterned(44) },
  ]
  it.each([true, false])(
    'is read little endian %s by the physical address of its load segments',
    (little) => {
      const elf = readElf(elfOf(parts, little, little ? 40 : 20))
      expect(elf.memory).toEqual(parts)
      expect(elf.endian).toBe(little ? 'little' : 'big')
    },
  )
  // Reference: objcopy makes an object of a binary, ld a program of it; the bytes come back at the address.
  it('reads what ld linked', () => {
    const [source, object, program] = ['c.s', 'c.o', 'c.elf'].map((name) => join(folder, name)) as [
      string,
      string,
      string,
    ]
    const bytes = patterned(600)
    writeFileSync(source, `.section .text\n.global _start\n_start:\n.byte ${[...bytes].join(',')}\n`)
    execFileSync('as', ['--32', '-o', object, source])
    execFileSync('ld', [
      '-m',
      'elf_i386',
      '-Ttext=0x08004000',
      '--build-id=none',
      '-N',
      '-o',
      program,
      object,
    ])
    const { memory, start } = readElf(readFileSync(program))
    const segment = memory.find(({ address }) => address === 0x0800_4000)
    expect(Buffer.from(segment!.bytes.subarray(0, 600)).equals(Buffer.from(bytes))).toBe(true)
    expect(start).toEqual({ kind: 'linear', address: 0x0800_4000 })
    const bin = join(folder, 'c.bin')
    execFileSync('objcopy', ['-O', 'binary', program, bin])
    expect(readFileSync(bin).subarray(0, 600).equals(Buffer.from(bytes))).toBe(true)
  })
  const spoiled = (at: number, value: number, wide: 2 | 4 = 4) => {
    const file = elfOf(parts, true, 40)
    const view = new DataView(file.buffer)
    if (wide === 4) view.setUint32(at, value, true)
    else view.setUint16(at, value, true)
    return file
  }
  // Source: System V ABI, chapters 4 and 5: offsets of e_phoff 28, e_phnum 44, p_offset 52+4, p_filesz 52+16.
  it.each([
    ['headers outside the file', spoiled(28, 0x7fff_ffff), 'elf-header-place', 28],
    ['absurdly many headers', spoiled(44, 0xffff, 2), 'elf-header-count', 44],
    ['no headers', spoiled(44, 0, 2), 'elf-no-segments', 44],
    ['a segment outside the file', spoiled(56, 0x4000_0000), 'elf-segment-place', 56],
    ['a segment longer in the file than in memory', spoiled(72, 1), 'elf-segment-size', 68],
    ['segments that share bytes of the file', spoiled(88, 116 + 100), 'elf-segment-overlap', 88],
    [
      'a 64-bit file',
      (() => {
        const file = elfOf(parts, true, 40)
        file[4] = 2
        return file
      })(),
      'elf-class',
      4,
    ],
    ['an object that is no program', spoiled(16, 1, 2), 'elf-type', 16],
    ['a header that is cut off', elfOf(parts, true, 40).subarray(0, 30), 'elf-truncated', 0],
  ])('refuses %s with its byte', (_, file, kind, offset) => {
    expect(refusal(() => readElf(file))).toMatchObject({ kind, place: { offset } })
  })
})

describe('UF2', () => {
  const memory: MemoryMap = [{ address: 0x1000_0000, bytes: patterned(1000) }]
  // Source: the open format description: 512-byte blocks; magics 0A324655, 9E5D5157, 0AB16F30; payload 256.
  it('writes blocks as the format describes them', () => {
    const file = writeUf2(memory, 0xe48b_ff56)
    const view = new DataView(file.buffer)
    expect(file).toHaveLength(4 * 512)
    expect([0, 4, 508].map((at) => view.getUint32(at, true))).toEqual([0x0a324655, 0x9e5d5157, 0x0ab16f30])
    expect([12, 16, 20, 24, 28].map((at) => view.getUint32(512 + at, true))).toEqual([
      0x1000_0100, 256, 1, 4, 0xe48b_ff56,
    ])
    expect(view.getUint32(8, true) & 0x2000).toBe(0x2000)
  })
  it('is read in any order of its blocks', () => {
    const file = writeUf2(memory, 7)
    const turned = new Uint8Array(file.length)
    for (let block = 0; block < 4; block++)
      turned.set(file.subarray(block * 512, block * 512 + 512), (3 - block) * 512)
    expect(readUf2(turned).parts).toEqual([{ family: 7, memory }])
  })
  it('passes over blocks that are not for the main flash', () => {
    const file = writeUf2(memory)
    const note = file.slice(0, 512)
    new DataView(note.buffer).setUint32(8, 1, true)
    expect(readUf2(new Uint8Array([...note, ...file]))).toMatchObject({
      notMainFlash: 1,
      parts: [{ memory }],
    })
  })
  it('refuses several processors in one file, where one image is wanted', () => {
    const both = new Uint8Array([...writeUf2(memory, 1), ...writeUf2(memory, 2)])
    expect(readUf2(both).parts).toHaveLength(2)
    expect(refusal(() => readImageFile(both)).says).toMatch(/several processors/)
  })
  it.each([
    ['a missing block', (file: Uint8Array) => file.slice(0, 3 * 512), 'uf2-missing'],
    [
      'a block twice',
      (file: Uint8Array) => {
        const twice = file.slice()
        twice.copyWithin(512, 0, 512)
        return twice
      },
      'uf2-duplicate',
    ],
    [
      'a wrong mark',
      (file: Uint8Array) => {
        const bad = file.slice()
        bad[512 + 508] = 0
        return bad
      },
      'uf2-magic',
    ],
    [
      'a payload of 477',
      (file: Uint8Array) => {
        const bad = file.slice()
        new DataView(bad.buffer).setUint32(16, 477, true)
        return bad
      },
      'uf2-payload',
    ],
    ['a file that ends in a block', (file: Uint8Array) => file.slice(0, 700), 'uf2-length'],
  ])('refuses %s', (_, spoil, kind) => {
    expect(refusal(() => readUf2(spoil(writeUf2(memory)))).kind).toBe(kind)
  })
})

describe('DFU suffix', () => {
  const payload = patterned(500)
  const ids = { vendorId: 0xf0a1, productId: 9, deviceRelease: 0x0200 }
  // Source: CRC RevEng catalogue, CRC-32/JAMCRC: check value 340BC6D9; and the npm package crc, not inverted.
  it('uses CRC-32 without the final inversion (DFU 1.1, appendix B)', () => {
    expect(dfuCrc(asciiBytes('123456789'))).toBe(0x340b_c6d9)
    expect(dfuCrc(payload)).toBe(~crc32Of(Buffer.from(payload)) >>> 0)
  })
  it('is written and read back as the standard lays it out', () => {
    const file = writeDfuSuffix(payload, ids)
    expect(file).toHaveLength(516)
    // DFU 1.1, table B.1, from the end: CRC, length 16, "UFD", version 0100.
    expect([...file.subarray(506, 512)]).toEqual([0x00, 0x01, 0x55, 0x46, 0x44, 16])
    expect(readDfuSuffix(file)).toEqual({ payload, suffix: { ...ids, length: 16 } })
    expect(readImageFile(file, { address: 0x1000 })).toMatchObject({
      format: 'bin',
      dfu: ids,
      placed: 'by-person',
    })
  })
  it('is refused with a wrong CRC', () => {
    const file = writeDfuSuffix(payload, ids)
    file[3]! ^= 1
    expect(refusal(() => readImageFile(file))).toMatchObject({ kind: 'dfu-crc', place: { offset: 512 } })
  })
})

describe('ZIP', () => {
  const hex = asciiBytes(hexOf([{ address: 0x0800_8000, bytes: patterned(64) }]))
  it('is read with its images, notes and the rest told apart', () => {
    const file = zipSync({
      'rel/img1.hex': hex,
      'rel/READ ME.txt': asciiBytes('Release 3.6\r\n'),
      'logo.png': Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10),
    })
    const found = readFile(file)
    expect(found.kind === 'bundle' && found.entries.map(({ path, what }) => [path, what.kind])).toEqual([
      ['rel/img1.hex', 'image'],
      ['rel/READ ME.txt', 'notes'],
      ['logo.png', 'other'],
    ])
  })
  it('may hold an archive, but not one that holds another', () => {
    const once = zipSync({ 'inner.zip': zipSync({ 'img.hex': hex }) })
    const found = readFile(once)
    expect(found.kind === 'bundle' && found.entries[0]!.path).toBe('inner.zip/img.hex')
    const twice = zipSync({ 'outer.zip': once })
    expect(refusal(() => readFile(twice)).kind).toBe('zip-nested')
  })
  it.each([
    ['../../etc/x.hex', 'zip-climbs'],
    ['a/../../x.hex', 'zip-climbs'],
    ['/root.hex', 'zip-absolute'],
    ['C:\\x.hex', 'zip-absolute'],
    ['..\\x.hex', 'zip-climbs'],
  ])('refuses the name %s', (path, kind) => {
    expect(refusal(() => readZip(zipSync({ [path]: hex })))).toMatchObject({
      kind,
      found: path.replaceAll('\\', '/'),
    })
  })
  it('refuses a bomb by its ratio before a byte is unpacked, and one that lies about its size while it unpacks', () => {
    const bomb = zipSync({ 'x.hex': new Uint8Array(8_000_000) })
    expect(refusal(() => readZip(bomb)).kind).toBe('zip-bomb')
    const liar = zipSync({ 'x.hex': new Uint8Array(900_000) })
    const view = new DataView(liar.buffer, liar.byteOffset)
    const end = liar.length - 22
    const directory = view.getUint32(end + 16, true)
    view.setUint32(directory + 24, 1000, true)
    expect(refusal(() => readZip(liar)).kind).toBe('zip-bomb')
  })
  it('refuses more than any image in total', () => {
    const file = zipSync({ 'a.hex': hex, 'b.hex': hex })
    const view = new DataView(file.buffer, file.byteOffset)
    const directory = view.getUint32(file.length - 22 + 16, true)
    view.setUint32(directory + 24, zipLimits.entryBytes + 1, true)
    expect(refusal(() => readZip(file)).kind).toBe('zip-too-large')
  })
  it('refuses an encrypted archive (APPNOTE 4.4.4, bit 0)', () => {
    const file = zipSync({ 'a.hex': hex })
    const view = new DataView(file.buffer, file.byteOffset)
    const directory = view.getUint32(file.length - 22 + 16, true)
    view.setUint16(directory + 8, view.getUint16(directory + 8, true) | 1, true)
    expect(refusal(() => readZip(file))).toMatchObject({ kind: 'zip-encrypted', place: { at: 'a.hex' } })
  })
  it('refuses damage and what is cut off', () => {
    const file = zipSync({ 'a.hex': hex })
    expect(refusal(() => readZip(file.slice(0, file.length - 30))).kind).toBe('zip-truncated')
    const spoiled = zipSync({ 'a.hex': hex }, { level: 0 })
    spoiled[60]! ^= 1
    expect(refusal(() => readZip(spoiled)).kind).toBe('zip-crc')
  })
  // Reference: the archiver of Python's standard library.
  it('reads what another archiver packed', () => {
    const [file, inside] = [join(folder, 'p.zip'), join(folder, 'p.hex')]
    writeFileSync(inside, hex)
    execFileSync('python3', [
      '-c',
      `import zipfile;z=zipfile.ZipFile(${JSON.stringify(file)},'w',zipfile.ZIP_DEFLATED);z.write(${JSON.stringify(inside)},'dir/p.hex')`,
    ])
    expect(readZip(readFileSync(file)).map(({ path, bytes }) => [path, bytes.length])).toEqual([
      ['dir/p.hex', hex.length],
    ])
  })
})

describe('every writable format', () => {
  const memory: MemoryMap = [{ address: 0x0800_8000, bytes: patterned(5000) }]
  it.each(writableFormats)('%s is read back to the same bytes, told from content alone', (format) => {
    const read = readImageFile(writeImage(memory, format), { address: 0x0800_8000 })
    expect(read.memory).toEqual(memory)
  })
  it('a plain binary with gigabytes of gap is refused', () => {
    const far: MemoryMap = [...memory, { address: 0xf000_0000, bytes: patterned(4) }]
    expect(refusal(() => writeImage(far, 'bin')).kind).toBe('export-gap')
    expect(readIntelHex(writeImage(far, 'ihex')).memory).toEqual(far)
  })
  it('HEX and S-record keep pieces apart, whatever their order and size', () => {
    const pieces = fc
      .array(fc.tuple(fc.integer({ min: 1, max: 4000 }), fc.integer({ min: 1, max: 300 })), {
        minLength: 1,
        maxLength: 6,
      })
      .map((gaps) => {
        let at = 0x100
        return gaps.map(([gap, length]) => {
          const address = at + gap
          at = address + length
          return { address, bytes: patterned(length) }
        })
      })
    fc.assert(
      fc.property(pieces, (map) => {
        for (const format of ['ihex', 'srec'] as const)
          expect(readImageFile(writeImage(map, format)).memory).toEqual(map)
      }),
      { numRuns: 60 },
    )
  })
})

describe('whatever the bytes', () => {
  const openers: Uint8Array[] = [
    asciiBytes(':'),
    asciiBytes('S1'),
    Uint8Array.of(0x7f, 0x45, 0x4c, 0x46, 1, 1, 1),
    asciiBytes('UF2\n'),
    Uint8Array.of(0x50, 0x4b, 3, 4),
    new Uint8Array(0),
  ]
  it('the readers throw nothing but their own error, and never hang', () => {
    fc.assert(
      fc.property(fc.constantFrom(...openers), fc.uint8Array({ maxLength: 700 }), (opener, tail) => {
        const file = new Uint8Array([...opener, ...tail])
        const started = Date.now()
        try {
          readFile(file, { families: demoFamilyList })
        } catch (error) {
          expect(isProblem(error), String(error)).toBe(true)
        }
        // Wanted: within 2 s; a reader that hangs takes for ever.
        expect(Date.now() - started).toBeLessThan(20_000)
      }),
      { numRuns: 3000 },
    )
  })
  it('nor when a good file is spoiled anywhere', () => {
    const memory: MemoryMap = [{ address: 0x0800_8000, bytes: patterned(900) }]
    const good = [
      ...writableFormats.map((format) => writeImage(memory, format)),
      elfOf(memory, true, 40),
      zipSync({ 'a.hex': writeImage(memory, 'ihex') }),
    ]
    fc.assert(
      fc.property(fc.constantFrom(...good), fc.nat(), fc.nat(255), fc.nat(), (file, at, value, cut) => {
        const spoiled = file.slice(0, file.length - (cut % 3 === 0 ? cut % file.length : 0))
        if (spoiled.length > 0) spoiled[at % spoiled.length] = value
        try {
          readFile(spoiled)
        } catch (error) {
          expect(isProblem(error), String(error)).toBe(true)
        }
      }),
      { numRuns: 3000 },
    )
  })
  // S-records of a gigabyte: refused by size before a line is read.
  it('a file larger than any image is refused at once', () => {
    const huge = { length: 1_000_000_000 } as Uint8Array
    expect(refusal(() => readFile(huge)).kind).toBe('too-large')
  })
})
