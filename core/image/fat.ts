import { shortNameFault } from '../family'
import { asciiBytes, asciiText, Problem } from '../kernel'

/*
 * The file system of cards and sticks (ECMA-107: FAT12 and FAT16; FAT32 with its root in a chain of clusters, from memory).
 * A unit that searches a card takes what it finds in the order of the directory's entries, and that order is what a copy
 * by hand gets wrong.
 */

/** A file of the root directory, in the order of its entries. */
export interface CardFile {
  name: string
  bytes: Uint8Array
}

const sectorBytes = 512
const entryBytes = 32
const rootEntries = 512
const longName = 0x0f
const attribute = { label: 0x08, folder: 0x10, archive: 0x20 } as const
/** Cluster counts between which a volume is FAT16 (from memory of the field's convention). */
const fat16Clusters = { min: 4085, max: 65_524 } as const

const shortName = (name: string) => {
  const [stem = '', extension = ''] = name.split('.')
  return asciiBytes(stem.padEnd(8) + extension.padEnd(3))
}

/**
 * A volume (FAT16) with these files in its root directory, in this order and nothing else.
 * @param label up to eleven capitals.
 * @throws Problem `card-name` for a name that has no short form, `card-full` where they do not fit.
 */
export function writeFatVolume(
  files: readonly CardFile[],
  volumeBytes = 16 * 1024 * 1024,
  label = 'UPDATE',
): Uint8Array {
  for (const { name } of files) {
    const fault = shortNameFault(name)
    if (fault !== null)
      throw new Problem({
        kind: 'card-name',
        thing: name,
        says: 'the card’s directory takes no such name',
        expected: fault,
        remedy: 'Use the name that the unit’s manual gives.',
      })
  }
  const sectors = Math.floor(volumeBytes / sectorBytes)
  let perCluster = 1
  while (sectors / perCluster > fat16Clusters.max && perCluster < 64) perCluster *= 2
  const fatSectors = Math.ceil(((sectors / perCluster + 2) * 2) / sectorBytes)
  const rootSectors = (rootEntries * entryBytes) / sectorBytes
  const first = 1 + 2 * fatSectors + rootSectors
  const clusters = Math.floor((sectors - first) / perCluster)
  const clusterBytes = perCluster * sectorBytes
  const wanted = files.reduce((sum, { bytes }) => sum + Math.ceil(bytes.length / clusterBytes), 0)
  if (clusters < fat16Clusters.min || wanted > clusters || files.length > rootEntries - 1) {
    throw new Problem({
      kind: 'card-full',
      says: 'the files do not fit on a card of this size',
      expected: `${wanted * clusterBytes} bytes of room`,
      found: `${Math.max(0, clusters) * clusterBytes} bytes`,
      remedy: 'Take a larger card, up to what the unit reads.',
    })
  }
  const volume = new Uint8Array(sectors * sectorBytes)
  const view = new DataView(volume.buffer)
  volume.set([0xeb, 0x3c, 0x90])
  volume.set(asciiBytes('BENCH   '), 3)
  view.setUint16(11, sectorBytes, true)
  volume[13] = perCluster
  view.setUint16(14, 1, true)
  volume[16] = 2
  view.setUint16(17, rootEntries, true)
  if (sectors < 0x10000) view.setUint16(19, sectors, true)
  else view.setUint32(32, sectors, true)
  volume[21] = 0xf8
  view.setUint16(22, fatSectors, true)
  view.setUint16(24, 32, true)
  view.setUint16(26, 64, true)
  volume.set([0x80, 0, 0x29, 1, 2, 3, 4], 36)
  volume.set(asciiBytes(label.toUpperCase().padEnd(11).slice(0, 11)), 43)
  volume.set(asciiBytes('FAT16   '), 54)
  view.setUint16(510, 0xaa55, true)

  const root = (1 + 2 * fatSectors) * sectorBytes
  const fat = (cluster: number, value: number) => {
    for (const copy of [0, 1])
      view.setUint16((1 + copy * fatSectors) * sectorBytes + cluster * 2, value, true)
  }
  fat(0, 0xfff8)
  fat(1, 0xffff)
  volume.set(asciiBytes(label.toUpperCase().padEnd(11).slice(0, 11)), root)
  volume[root + 11] = attribute.label
  let next = 2
  files.forEach(({ name, bytes }, index) => {
    const at = root + (index + 1) * entryBytes
    volume.set(shortName(name), at)
    volume[at + 11] = attribute.archive
    const count = Math.ceil(bytes.length / clusterBytes)
    view.setUint16(at + 26, count === 0 ? 0 : next, true)
    view.setUint32(at + 28, bytes.length, true)
    volume.set(bytes, first * sectorBytes + (next - 2) * clusterBytes)
    for (let piece = 0; piece < count; piece++)
      fat(next + piece, piece === count - 1 ? 0xffff : next + piece + 1)
    next += count
  })
  return volume
}

/**
 * The files of a volume's root directory, in the order of their entries; folders and deleted entries are left out.
 * @param image a volume, or a whole card with its first partition.
 * @throws Problem `card-unreadable`.
 */
export function readFatRoot(image: Uint8Array): CardFile[] {
  const view = new DataView(image.buffer, image.byteOffset, image.byteLength)
  const bad = (found: string, offset: number) =>
    new Problem({
      kind: 'card-unreadable',
      place: { offset },
      says: 'this is no card that can be read',
      found,
      remedy: 'Take an image of the whole card, or of its one volume, in FAT16 or FAT32.',
    })
  if (image.length < sectorBytes || view.getUint16(510, true) !== 0xaa55) throw bad('no boot sector', 510)
  // A card with partitions has its table where a volume has code; the first entry says where that one begins.
  const isVolume = view.getUint16(11, true) === sectorBytes && image[13]! > 0 && image[16]! > 0
  const base = isVolume ? 0 : view.getUint32(0x1be + 8, true) * sectorBytes
  if (base + sectorBytes > image.length || view.getUint16(base + 11, true) !== sectorBytes)
    throw bad('no volume with sectors of 512 bytes', base + 11)
  const perCluster = image[base + 13]!
  const reserved = view.getUint16(base + 14, true)
  const copies = image[base + 16]!
  const entries = view.getUint16(base + 17, true)
  const sectors = view.getUint16(base + 19, true) || view.getUint32(base + 32, true)
  const fatSectors = view.getUint16(base + 22, true) || view.getUint32(base + 36, true)
  if (perCluster === 0 || copies === 0 || fatSectors === 0)
    throw bad('a boot sector without its figures', base + 13)
  const rootSectors = Math.ceil((entries * entryBytes) / sectorBytes)
  const first = reserved + copies * fatSectors + rootSectors
  const clusters = Math.floor((sectors - first) / perCluster)
  const bits = entries === 0 ? 32 : clusters < fat16Clusters.min ? 12 : 16
  const clusterBytes = perCluster * sectorBytes
  const table = base + reserved * sectorBytes
  const inside = (at: number, count: number) => {
    if (at < 0 || at + count > image.length) throw bad('it ends in the middle', image.length)
    return image.subarray(at, at + count)
  }
  const nextOf = (cluster: number): number => {
    if (bits === 16) return view.getUint16(table + cluster * 2, true)
    if (bits === 32) return view.getUint32(table + cluster * 4, true) & 0x0fffffff
    const pair = view.getUint16(table + Math.floor(cluster * 1.5), true)
    return cluster & 1 ? pair >> 4 : pair & 0xfff
  }
  const end = { 12: 0xff8, 16: 0xfff8, 32: 0x0ffffff8 }[bits]
  const chain = (from: number, max: number): Uint8Array => {
    if (max > image.length) throw bad(`a file of ${max} bytes`, table)
    const bytes = new Uint8Array(max)
    let at = 0
    for (let cluster = from; cluster >= 2 && cluster < end && at < max; cluster = nextOf(cluster)) {
      if (cluster >= clusters + 2) throw bad(`a chain leads to cluster ${cluster}`, table)
      const piece = inside(base + (first + (cluster - 2) * perCluster) * sectorBytes, clusterBytes)
      bytes.set(piece.subarray(0, Math.min(clusterBytes, max - at)), at)
      at += clusterBytes
    }
    if (at < max) throw bad(`a file ends after ${at} of ${max} bytes`, table)
    return bytes
  }
  const directory =
    bits === 32
      ? rootOfChain()
      : inside(base + (reserved + copies * fatSectors) * sectorBytes, entries * entryBytes)
  function rootOfChain(): Uint8Array {
    let count = 0
    for (
      let cluster = view.getUint32(base + 44, true);
      cluster >= 2 && cluster < end && count < 4096;
      cluster = nextOf(cluster)
    )
      count++
    return chain(view.getUint32(base + 44, true), count * clusterBytes)
  }

  const files: CardFile[] = []
  let long = ''
  for (let at = 0; at + entryBytes <= directory.length && directory[at] !== 0; at += entryBytes) {
    const entry = directory.subarray(at, at + entryBytes)
    if (entry[11] === longName) {
      long = longPart(entry) + long
      continue
    }
    const name = long || shortOf(entry)
    long = ''
    if (entry[0] === 0xe5 || entry[11]! & (attribute.label | attribute.folder)) continue
    const own = new DataView(entry.buffer, entry.byteOffset, entryBytes)
    const cluster = own.getUint16(26, true) | (bits === 32 ? own.getUint16(20, true) << 16 : 0)
    files.push({ name, bytes: chain(cluster, own.getUint32(28, true)) })
  }
  return files
}

function shortOf(entry: Uint8Array): string {
  const [stem, extension] = [asciiText(entry.subarray(0, 8)).trim(), asciiText(entry.subarray(8, 11)).trim()]
  return extension === '' ? stem : `${stem}.${extension}`
}

/** Thirteen characters of a long name, in three pieces of one entry. */
function longPart(entry: Uint8Array): string {
  let text = ''
  for (const [from, count] of [
    [1, 5],
    [14, 6],
    [28, 2],
  ] as const) {
    for (let at = 0; at < count; at++) {
      const code = entry[from + at * 2]! | (entry[from + at * 2 + 1]! << 8)
      if (code === 0 || code === 0xffff) return text
      text += String.fromCharCode(code)
    }
  }
  return text
}
