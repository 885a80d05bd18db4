import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
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

/** Where the root directory of a FAT16 volume begins. */
function rootOf(volume: Uint8Array): number {
  const view = new DataView(volume.buffer)
  return (view.getUint16(14, true) + volume[16]! * view.getUint16(22, true)) * 512
}
