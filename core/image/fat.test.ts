import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { isProblem } from '../kernel'
import { shortNameFault } from '../family'
import { readFatRoot, writeFatVolume, type CardFile } from '.'

/* Held against mtools (Debian), which reads and writes such volumes by itself. */
const folder = mkdtempSync(join(tmpdir(), 'bench-wake-card-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const at = (name: string) => join(folder, name)
const mtools = (command: string, ...words: string[]) =>
  execFileSync(command, words, { env: { ...process.env, MTOOLS_SKIP_CHECK: '1' } }).toString()
const noise = (length: number, seed: number) =>
  Uint8Array.from({ length }, (_, index) => (Math.imul(index + seed, 2654435761) >>> 11) & 255)
const files: CardFile[] = [
  { name: 'START.TXT', bytes: new TextEncoder().encode('HELM UPDATE\r\n') },
  { name: 'HELM.BIN', bytes: noise(70_001, 3) },
  { name: 'CHART.DAT', bytes: noise(4096, 9) },
  { name: 'EMPTY', bytes: new Uint8Array(0) },
]

describe('a card’s volume', () => {
  it('that is written here is read by mtools: names, their order, and every byte', () => {
    writeFileSync(at('ours.img'), writeFatVolume(files))
    const listed = mtools('mdir', '-i', at('ours.img'), '-b', '::').trim().split('\n')
    expect(listed).toEqual(files.map(({ name }) => `::/${name}`))
    for (const { name, bytes } of files) {
      mtools('mcopy', '-n', '-i', at('ours.img'), `::${name}`, at(name))
      expect(Buffer.compare(readFileSync(at(name)), Buffer.from(bytes)), name).toBe(0)
    }
    // Nothing else speaks against it either.
    expect(mtools('minfo', '-i', at('ours.img'))).toMatch(/disk type="FAT16/)
  })
  it.each([
    ['FAT12', ['-f', '1440']],
    ['FAT16', ['-T', '32768', '-h', '64', '-s', '32']],
    ['FAT32', ['-F', '-T', '140000', '-h', '64', '-s', '32']],
  ])('that mtools made (%s) is read here in the order in which it was filled', (name, form) => {
    const image = at(`${name}.img`)
    mtools('mformat', '-C', ...form, '-i', image, '::')
    // Not the order of the alphabet; one name is long, one was deleted again.
    const order = ['zeta.bin', 'Alpha of the launch.bin', 'GONE.BIN', 'MID.BIN']
    for (const [index, each] of order.entries()) {
      writeFileSync(at(each), noise(1000 * index + 17, index))
      mtools('mcopy', '-i', image, at(each), `::${each}`)
    }
    mtools('mmd', '-i', image, '::FOLDER')
    mtools('mdel', '-i', image, '::GONE.BIN')
    const read = readFatRoot(new Uint8Array(readFileSync(image)))
    expect(read.map((file) => file.name.toLowerCase())).toEqual([
      'zeta.bin',
      'alpha of the launch.bin',
      'mid.bin',
    ])
    expect(read.map(({ bytes }) => bytes.length)).toEqual([17, 1017, 3017])
    expect(Buffer.compare(Buffer.from(read[2]!.bytes), Buffer.from(noise(3017, 3)))).toBe(0)
  })
  it('is found behind a table of partitions', () => {
    const volume = writeFatVolume(files)
    const card = new Uint8Array(2048 * 512 + volume.length)
    card.set(volume, 2048 * 512)
    new DataView(card.buffer).setUint32(0x1be + 8, 2048, true)
    card.set([0x55, 0xaa], 510)
    expect(readFatRoot(card).map(({ name }) => name)).toEqual(files.map(({ name }) => name))
  })
  it.each<[string, (volume: Uint8Array) => Uint8Array]>([
    ['noise', () => noise(4096, 1)],
    ['nothing', () => new Uint8Array(0)],
    ['half of one', (volume) => volume.slice(0, 120_000)],
    [
      'one whose chain leads outside',
      (volume) => {
        const bent = volume.slice()
        // The second entry's file: its first cluster far away.
        new DataView(bent.buffer).setUint16(rootOf(volume) + 3 * 32 + 26, 0xf000, true)
        return bent
      },
    ],
  ])('that is %s is refused in words', (_, bend) => {
    let problem: unknown
    try {
      readFatRoot(bend(writeFatVolume(files)))
    } catch (error) {
      problem = error
    }
    expect(isProblem(problem, 'card-unreadable')).toBe(true)
  })
  it('is refused where the files do not fit, or have no short name', () => {
    const large = { name: 'LARGE.BIN', bytes: new Uint8Array(17 * 1024 * 1024) }
    expect(() => writeFatVolume([large])).toThrow(/do not fit/)
    expect(() => writeFatVolume([{ name: 'Helm display.bin', bytes: new Uint8Array(1) }])).toThrow(
      /no such name/,
    )
  })
  // Source: ECMA-107, 11.2: eight characters and three.
  it.each([
    ['HELM.BIN', true],
    ['HELM12345.BIN', false],
    ['helm.bin', false],
    ['HELM.BINX', false],
    ['HELM', true],
    ['', false],
  ])('takes "%s" as a short name: %s', (name, good) => {
    expect(shortNameFault(name) === null).toBe(good)
  })
})

/*
 * Limits of the file system. Source: the published FAT specification (from memory of it): a volume is FAT16 from 4085
 * clusters on and up to 65 524; sectors are counted in 16 bits where they go into them, else in 32.
 */
describe('a volume at its limits', () => {
  const one = (bytes: number): CardFile => ({ name: 'HELM.BIN', bytes: noise(bytes, 5) })
  /** One copy of the table for so many sectors of one cluster each, in sectors of 256 entries. */
  const tableOf = (sectors: number) => Math.ceil((sectors + 2) / 256)
  const clustersOf = (sectors: number) => sectors - 1 - 2 * tableOf(sectors) - 32
  const minSectors = 4152
  it('is no volume below 4085 clusters', () => {
    expect(clustersOf(minSectors)).toBe(4085)
    const least = writeFatVolume(files, minSectors * 512)
    expect(readFatRoot(least).map(({ name }) => name)).toEqual(files.map(({ name }) => name))
    writeFileSync(at('least.img'), least)
    expect(mtools('minfo', '-i', at('least.img'))).toMatch(/disk type="FAT16/)
    expect(() => writeFatVolume(files, (minSectors - 1) * 512)).toThrow(/do not fit/)
  })
  it.each([
    ['65 524 sectors', 65_524, 1],
    ['one more', 65_525, 2],
    ['as many as 16 bits just do not count', 65_536, 2],
    ['40 MiB', 81_920, 2],
    ['131 050 sectors', 131_050, 4],
  ])(
    'of %s has the smallest clusters that can be counted, and is read by mtools',
    (_, sectors, perCluster) => {
      const volume = writeFatVolume([...files, { name: 'LAST.BIN', bytes: noise(3000, 8) }], sectors * 512)
      expect(volume.length).toBe(sectors * 512)
      expect(volume[13]).toBe(perCluster)
      const view = new DataView(volume.buffer)
      expect([view.getUint16(19, true), view.getUint32(32, true)]).toEqual(
        sectors < 65_536 ? [sectors, 0] : [0, sectors],
      )
      writeFileSync(at('large.img'), volume)
      mtools('mcopy', '-n', '-i', at('large.img'), '::LAST.BIN', at('LAST.BIN'))
      expect(Buffer.compare(readFileSync(at('LAST.BIN')), Buffer.from(noise(3000, 8)))).toBe(0)
      expect(
        Buffer.compare(Buffer.from(readFatRoot(volume).at(-1)!.bytes), Buffer.from(noise(3000, 8))),
      ).toBe(0)
    },
  )
  it('is filled to its last byte, and not beyond', () => {
    const room = clustersOf(minSectors) * 512
    const full = writeFatVolume([one(room)], minSectors * 512)
    expect(Buffer.compare(Buffer.from(readFatRoot(full)[0]!.bytes), Buffer.from(one(room).bytes))).toBe(0)
    expect(() => writeFatVolume([one(room + 1)], minSectors * 512)).toThrow(/do not fit/)
  })
  it('holds 511 names beside its own, and no more', () => {
    const many = Array.from({ length: 512 }, (_, index) => ({
      name: `F${index}`,
      bytes: Uint8Array.of(index & 255),
    }))
    const read = readFatRoot(writeFatVolume(many.slice(0, 511)))
    expect(read.length).toBe(511)
    expect(read.at(-1)).toEqual({ name: 'F510', bytes: Uint8Array.of(254) })
    expect(() => writeFatVolume(many)).toThrow(/do not fit/)
  })
  it('has two equal tables, the medium of a fixed disk, and its label in capitals, cut at eleven', () => {
    const volume = writeFatVolume(files, undefined, 'helm display 2')
    const bytes = new DataView(volume.buffer).getUint16(22, true) * 512
    const [first, second] = [volume.subarray(512, 512 + bytes), volume.subarray(512 + bytes, 512 + 2 * bytes)]
    expect(Buffer.compare(Buffer.from(first), Buffer.from(second))).toBe(0)
    expect([...first.subarray(0, 4)]).toEqual([0xf8, 0xff, 0xff, 0xff])
    writeFileSync(at('label.img'), volume)
    expect(mtools('mlabel', '-s', '-i', at('label.img'), '::')).toContain('HELM DISPLA')
    const told = mtools('minfo', '-i', at('label.img'))
    expect(told).toContain('0xf8')
    expect(told).toMatch(/sectors per track: 32/)
    expect(told).toMatch(/heads: 64/)
  })
})

describe('a damaged volume', () => {
  // Made when the tests run: a fault in writing shows as a red test, not as a file without tests.
  let volume: Uint8Array
  beforeAll(() => {
    volume = writeFatVolume(files)
  })
  const refusal = (bend: (view: DataView, bytes: Uint8Array) => void): unknown => {
    const bent = volume.slice()
    bend(new DataView(bent.buffer), bent)
    try {
      return readFatRoot(bent).map(({ name }) => name)
    } catch (error) {
      if (!isProblem(error, 'card-unreadable')) throw error
      return error.facts.found
    }
  }
  const table = 512
  const entry = (index: number) => rootOf(volume) + index * 32
  it.each<[string, (view: DataView, bytes: Uint8Array) => unknown, RegExp]>([
    ['no sectors a cluster', (_, bytes) => (bytes[13] = 0), /without its figures/],
    ['no table', (_, bytes) => (bytes[16] = 0), /without its figures/],
    [
      'a table of no sectors',
      (view) => (view.setUint16(22, 0, true), view.setUint32(36, 0, true)),
      /without its figures/,
    ],
    ['sectors of 1024 bytes', (view) => view.setUint16(11, 1024, true), /sectors of 512/],
    ['no signature', (_, bytes) => (bytes[511] = 0), /boot sector/],
    // The second file's 137 clusters begin at the third; one link is taken out, and then one leads out of the volume.
    ['a file that ends early', (view) => view.setUint16(table + 2 * 10, 0xffff, true), /ends after/],
    [
      'a file of more bytes than all',
      (view) => view.setUint32(entry(2) + 28, 0xffff_fff0, true),
      /a file of/,
    ],
    ['a first cluster below the first', (view) => view.setUint16(entry(2) + 26, 1, true), /ends after 0/],
  ])('with %s says so', (_, bend, words) => {
    expect(refusal(bend)).toMatch(words)
  })
  it('knows the last cluster that there is from the one behind it', () => {
    const clusters =
      Math.floor(volume.length / 512) - 1 - 2 * new DataView(volume.buffer).getUint16(22, true) - 32
    // Clusters count from two.
    expect(refusal((view) => view.setUint16(entry(1) + 26, clusters + 1, true))).toEqual(
      files.map(({ name }) => name),
    )
    expect(refusal((view) => view.setUint16(entry(1) + 26, clusters + 2, true))).toMatch(/leads to cluster/)
  })
  it('ends at the lowest mark of an end, too', () => {
    expect(refusal((view) => view.setUint16(table + 2 * 10, 0xfff8, true))).toMatch(/ends after/)
    expect(refusal((view) => view.setUint16(table + 2 * 10, 0xfff7, true))).toMatch(/leads to cluster 65527/)
  })
  it('of FAT16 has clusters of sixteen bits: what others keep before them is no part of it', () => {
    expect(refusal((view) => view.setUint16(entry(1) + 20, 0x1234, true))).toEqual(
      files.map(({ name }) => name),
    )
  })
  /** A card with this behind its table of partitions, and its first sector bent. */
  const behind = (bend: (first: DataView) => void, own = volume) => {
    const card = new Uint8Array(8 * 512 + own.length)
    card.set(own, 8 * 512)
    const first = new DataView(card.buffer)
    first.setUint32(0x1be + 8, 8, true)
    card.set([0x55, 0xaa], 510)
    bend(first)
    return card
  }
  // Code of a loader stands where a volume has its figures: one alone of them makes no volume.
  it.each<[string, number, number, number]>([
    ['512', 512, 0, 0],
    ['512 and sectors a cluster', 512, 4, 0],
    ['512 and tables', 512, 0, 2],
    ['all but 512', 0x33c0, 4, 2],
  ])('is looked for behind a first sector that shows %s', (_, size, perCluster, copies) => {
    const card = behind((first) => {
      first.setUint16(11, size, true)
      first.setUint8(13, perCluster)
      first.setUint8(16, copies)
    })
    expect(readFatRoot(card).map(({ name }) => name)).toEqual(files.map(({ name }) => name))
  })
  it.each<[string, (bytes: Uint8Array) => void, number]>([
    ['sectors of another size', (bytes) => bytes.set([0, 4], 11), 11],
    ['no sectors a cluster', (bytes) => (bytes[13] = 0), 13],
  ])('behind a table is said to have %s at its own place', (_, bend, at) => {
    const bent = volume.slice()
    bend(bent)
    let place: unknown
    try {
      readFatRoot(behind(() => {}, bent))
    } catch (error) {
      if (isProblem(error, 'card-unreadable')) place = error.facts.place
    }
    expect(place).toEqual({ offset: 8 * 512 + at })
  })
  it('whose boot sector is all there is, is a sector without a volume', () => {
    const sector = new Uint8Array(512)
    sector.set([0x55, 0xaa], 510)
    expect(() => readFatRoot(sector)).toThrow(/sectors of 512/)
    // Behind a table the last sector is still on the card.
    const last = new Uint8Array(1024)
    last.set([0x55, 0xaa], 510)
    const view = new DataView(last.buffer)
    view.setUint32(0x1be + 8, 1, true)
    view.setUint16(512 + 11, 512, true)
    expect(() => readFatRoot(last)).toThrow(/without its figures/)
  })
  it('of two sectors a cluster has half as many of them, read and written', () => {
    const bytes = 40 * 1024 * 1024
    const wide = writeFatVolume([{ name: 'A.BIN', bytes: noise(3000, 4) }], bytes)
    const view = new DataView(wide.buffer)
    expect(wide[13]).toBe(2)
    const clusters = Math.floor((bytes / 512 - 1 - 2 * view.getUint16(22, true) - 32) / 2)
    view.setUint16(rootOf(wide) + 32 + 26, clusters + 2, true)
    expect(() => readFatRoot(wide)).toThrow(/leads to cluster/)
    const large = { name: 'B.BIN', bytes: new Uint8Array(bytes) }
    expect(() => writeFatVolume([large], bytes)).toThrow(/do not fit/)
  })
  it('behind a table of partitions that leads out of the card says so', () => {
    const card = new Uint8Array(2048)
    card.set([0x55, 0xaa], 510)
    new DataView(card.buffer).setUint32(0x1be + 8, 4, true)
    expect(() => readFatRoot(card)).toThrow(/no card/)
    expect(() => readFatRoot(card.subarray(0, 511))).toThrow(/no card/)
  })
  it('whose root runs in a circle (FAT32) comes to an end', () => {
    const image = at('circle.img')
    mtools('mformat', '-C', '-F', '-T', '140000', '-h', '64', '-s', '32', '-i', image, '::')
    const bytes = new Uint8Array(readFileSync(image))
    const view = new DataView(bytes.buffer)
    const root = view.getUint32(44, true)
    view.setUint32(view.getUint16(14, true) * 512 + root * 4, root, true)
    expect(readFatRoot(bytes)).toEqual([])
  })
})

/** Where the root directory of a FAT16 volume begins. */
function rootOf(volume: Uint8Array): number {
  const view = new DataView(volume.buffer)
  return (view.getUint16(14, true) + volume[16]! * view.getUint16(22, true)) * 512
}
