import { asciiBytes, sha256Hex } from '@bench-wake/core/kernel'
import { contentDigest, writeDfuSuffix, writeSRecord, writeUf2, type MemoryMap } from '@bench-wake/core/image'
import { zipSync } from 'fflate'
import { demoFamily } from './families'
import { elfOf, firmwareOf, hexOf, placed, type DemoFirmware } from './image'
import { taughtFieldsOf } from './taught'

/** A file as it came from a supplier. */
export interface DemoFile {
  name: string
  file: Uint8Array
  /** Where it came from. */
  from: string
}

/** What a file of a handful is for the family's first unit. */
export type Kind =
  | 'right'
  | 'other-revision'
  | 'older'
  | 'test'
  | 'other-component'
  | 'look-alike'
  | 'renamed'

export interface HandfulFile extends DemoFile {
  kind: Kind
}

const seconds = (text: string) => Date.parse(text) / 1000
const built = seconds('2026-09-02T08:14Z')

interface Recipe {
  component: string
  length: number
  fields: DemoFirmware['fields']
  /** How a file of it is called, by its version. */
  name(version: string): string
  otherRevision: DemoFirmware['fields']
  older: string
  test: string
  lookAlike: string
  /** A file of another component of this family, where it has one; else one of another family. */
  otherComponent?: { component: string; fields?: DemoFirmware['fields'] }
  write(memory: MemoryMap): Uint8Array
}

const raw = (memory: MemoryMap) => memory[0]!.bytes
const common = { release: 'production', buildTime: built }

/** The newest image of each family for its first unit, and how to spoil it. */
const recipes: Record<string, Recipe> = {
  'fog-signal': {
    component: 'main',
    length: 0x40000,
    fields: { ...common, deviceIdentifier: 'FS-20', hardwareMajor: 3, hardwareMinor: 0, version: '2.48' },
    name: (version) => `fs20-main-${version}.hex`,
    otherRevision: { hardwareMajor: 2 },
    older: '2.40',
    test: '2.49',
    lookAlike: 'FS-40',
    write: (memory) => asciiBytes(hexOf(memory)),
  },
  'marine-radio': {
    component: 'main',
    length: 0x20000,
    fields: {
      ...common,
      deviceIdentifier: 'MR-6',
      hardwareMajor: 2,
      variant: 'low-channel',
      version: '4.08',
    },
    name: (version) => `mr6_${version}_lo.bin`,
    otherRevision: { hardwareMajor: 1 },
    older: '4.07a',
    test: '4.09',
    lookAlike: 'MR-6X',
    otherComponent: { component: 'voice', fields: { version: '1.4' } },
    write: raw,
  },
  'station-inverter': {
    component: 'power',
    length: 0x18000,
    fields: { ...common, deviceIdentifier: 'LI', hardwareMajor: 5, model: 'LI-50', version: '3.6' },
    name: (version) => `li50-a-${version}.hex`,
    otherRevision: { hardwareMajor: 4 },
    older: '3.2',
    test: '3.7',
    lookAlike: 'LX',
    otherComponent: { component: 'panel' },
    write: (memory) => asciiBytes(hexOf(memory)),
  },
  'buoy-battery': {
    component: 'bms',
    length: 0x9000,
    fields: { ...common, deviceIdentifier: 'BP-5', version: '31.09' },
    name: (version) => `bp5_${version.replace('.', '_')}.s19`,
    otherRevision: { version: '58.04' },
    older: '31.05',
    test: '31.10',
    lookAlike: 'BP-5N',
    write: (memory) => asciiBytes(writeSRecord(memory, { header: 'pack' })),
  },
  'launch-motor': {
    component: 'drive',
    length: 0x30000,
    fields: {
      ...common,
      deviceIdentifier: 'LM-80',
      hardwareMajor: 2,
      layout: 'L-204',
      version: '4.1',
      requiresFrom: '3.6',
    },
    name: (version) => `drive-${version}.elf`,
    otherRevision: { hardwareMajor: 1 },
    older: '3.1',
    test: '4.2',
    lookAlike: 'LM-90',
    write: (memory) => elfOf(memory, false, 20),
  },
  'beacon-receiver': {
    component: 'radio',
    length: 0x8000,
    fields: {
      ...common,
      deviceIdentifier: 'BR-2',
      hardwareMajor: 2,
      sequence: 17,
      serial: 'BR-77120',
      version: '2.4.0',
    },
    name: (version) => `for-77120-${version}.bin`,
    otherRevision: { hardwareMajor: 1 },
    older: '2.2.0',
    test: '2.5.0-rc.1',
    lookAlike: 'BR-3',
    write: raw,
  },
  'tide-logger': {
    component: 'logger',
    length: 0xa000,
    fields: {
      ...common,
      deviceIdentifier: 'TL-9',
      hardwareMajor: 2,
      version: '2026-03-16',
      requiresFrom: '2025-11-03',
    },
    name: (version) => `tide-${version}.dfu`,
    otherRevision: { hardwareMajor: 1 },
    older: '2025-06-01',
    test: '2026-10-30',
    lookAlike: 'TL-9B',
    write: (memory) =>
      writeDfuSuffix(raw(memory), { vendorId: 0xf0a1, productId: 0x0009, deviceRelease: 0x0200 }),
  },
  'boat-davit': {
    component: 'joint-0',
    length: 0x4000,
    fields: { ...common, deviceIdentifier: 'DV-6', hardwareMajor: 3, version: '5.2.0' },
    name: (version) => `joint0-${version}.hex`,
    otherRevision: { hardwareMajor: 2 },
    older: '5.0',
    test: '5.3',
    lookAlike: 'DV-4',
    otherComponent: { component: 'joint-1' },
    write: (memory) => asciiBytes(hexOf(memory)),
  },
  'mains-relay': {
    component: 'relay',
    length: 0x10000,
    // Bits 0 and 2: watchdog, hold the last state.
    fields: { ...common, deviceIdentifier: 'QR-4', hardwareMajor: 2, options: 0b101, version: '2.1' },
    name: (version) => `quay-relay-${version}.uf2`,
    otherRevision: { hardwareMajor: 1 },
    // Decimal numbers: 1.10 is below 1.9.
    older: '1.10',
    test: '2.2',
    lookAlike: 'QR-5',
    write: (memory) => writeUf2(memory, 0x5152_0004),
  },
  'signal-desk': {
    component: 'chip',
    length: 0x20000,
    fields: {
      ...common,
      deviceIdentifier: 'SD-1',
      hardwareMajor: 2,
      version: 'BIRCH',
      requiresFrom: 'AMBER',
    },
    name: (version) => `${version.toLowerCase()}.rom`,
    otherRevision: { hardwareMajor: 1 },
    older: 'AMBER',
    test: 'CEDAR',
    lookAlike: 'SD-2',
    write: raw,
  },
}

export const handfulFamilies = Object.keys(recipes)

/** A family's newest image with other fields: what it says of itself, and how long it is. */
export const demoFieldsOf = (
  familyId: string,
  component: string,
  change: DemoFirmware['fields'],
): DemoFirmware => {
  const recipe = recipes[familyId]
  if (!recipe) return taughtFieldsOf(familyId, component, change)
  return { component, length: recipe.length, fields: { ...recipe.fields, ...change } }
}

function fileOf(
  familyId: string,
  change: DemoFirmware['fields'] = {},
  component?: string,
  before?: DemoFirmware['fields'],
): Uint8Array {
  const recipe = recipes[familyId]!
  const family = demoFamily(familyId)
  const form = (fields: DemoFirmware['fields']): DemoFirmware => ({
    component: component ?? recipe.component,
    length: recipe.length,
    fields: { ...recipe.fields, ...fields },
  })
  // A build that follows another keeps most of its bytes, as real releases do.
  const like = before ? { like: firmwareOf(family, form(before)) } : {}
  return recipe.write(placed(family, { ...form(change), ...like }))
}

/** A handful of files for a family's first unit: the right one, and the wrong ones that lie beside it in life. */
export function handfulOf(familyId: string): HandfulFile[] {
  const recipe = recipes[familyId]!
  const right = fileOf(familyId)
  const version = String(recipe.fields.version)
  const other = recipe.otherComponent
  const otherFile = other
    ? fileOf(familyId, other.fields, other.component)
    : fileOf(familyId === 'fog-signal' ? 'boat-davit' : 'fog-signal')
  const file = (kind: Kind, name: string, bytes: Uint8Array): HandfulFile => ({
    kind,
    name,
    file: bytes,
    from: 'supplier’s download page',
  })
  const named = recipe.name(version)
  const dot = named.lastIndexOf('.')
  return [
    file('right', named, right),
    file(
      'other-revision',
      `${named.slice(0, dot)} (1)${named.slice(dot)}`,
      fileOf(familyId, { buildTime: built + 900, ...recipe.otherRevision }),
    ),
    file(
      'older',
      recipe.name(recipe.older),
      fileOf(familyId, { version: recipe.older, requiresFrom: '', buildTime: seconds('2024-05-06T09:00Z') }),
    ),
    file(
      'test',
      recipe.name(`${recipe.test}_try`),
      fileOf(familyId, {
        version: recipe.test,
        release: 'test',
        requiresFrom: '',
        sequence: 21,
        buildTime: seconds('2026-11-10T16:40Z'),
      }),
    ),
    file('other-component', `part-b-${named}`, otherFile),
    file('look-alike', `fits-all-${named}`, fileOf(familyId, { deviceIdentifier: recipe.lookAlike })),
    file('renamed', `download${named.slice(dot)}`, right),
  ]
}

const notes = (text: string) => asciiBytes(text.replaceAll('\n', '\r\n'))

/** A download with two files of unhelpful names, notes and a manifest beside them (PRACTICE B2, B3). */
export function inverterBundle(): DemoFile {
  const a = fileOf('station-inverter')
  const b = fileOf('station-inverter', {}, 'panel')
  const { vendorId, classId } = demoFamily('station-inverter').hardware
  const manifest = {
    format: 'bench-wake/manifest',
    formatVersion: 1,
    sequenceNumber: 36,
    vendorId,
    classId,
    images: [
      {
        file: 'img1.hex',
        component: 'power',
        digest: sha256Hex(a),
        size: a.length,
        version: '3.6',
        requiresFrom: '3.0',
      },
      {
        file: 'img2.hex',
        component: 'panel',
        digest: sha256Hex(b),
        size: b.length,
        version: '3.6',
        requiresFrom: '3.0',
      },
    ],
  }
  return {
    name: 'download(1).zip',
    from: 'supplier’s download page',
    file: zipSync({
      'rel/img1.hex': a,
      'rel/img2.hex': b,
      'rel/manifest.json': asciiBytes(JSON.stringify(manifest, null, 2)),
      'rel/READ ME.txt': notes(
        'Release 3.6\n\nBoth pumps may start at once.\nWrite A first, then B. B takes longer.\nNothing else changes.\n',
      ),
    }),
  }
}

/** The radio's memory card as an archive: both files, in the order in which the radio takes them. */
export function radioCard(): DemoFile {
  return {
    name: 'MR6 card 4.08.zip',
    from: 'mail of the radio dealer, 2026-09-04',
    file: zipSync({
      'RADIO.BIN': fileOf('marine-radio'),
      'VOICE.BIN': fileOf('marine-radio', { version: '1.4' }, 'voice'),
    }),
  }
}

/** Everything that lies on the demo's shelf besides the fog signals' images. */
export function demoShelf(): DemoFile[] {
  const page = 'supplier’s download page'
  const one = (
    family: string,
    change: DemoFirmware['fields'],
    name: string,
    form: { component?: string; from?: string; before?: DemoFirmware['fields'] } = {},
  ): DemoFile => ({
    name,
    from: form.from ?? page,
    file: fileOf(family, change, form.component, form.before),
  })
  const releases = { '5.2.0': '2026-02-10T07:00Z', '5.2.1': '2026-08-21T07:00Z' }
  const joint = (number: number, version: keyof typeof releases) => {
    const first = { version: '5.2.0', buildTime: seconds(releases['5.2.0']) }
    return one(
      'boat-davit',
      { version, buildTime: seconds(releases[version]) },
      `j${number}_${version.replaceAll('.', '')}.hex`,
      { component: `joint-${number}`, ...(version === '5.2.1' ? { before: first } : {}) },
    )
  }
  const joints = [0, 1, 2, 3, 4, 5].flatMap((number) => [joint(number, '5.2.0'), joint(number, '5.2.1')])
  const amber = placed(demoFamily('signal-desk'), amberDesk)
  const drive36 = { version: '3.6', requiresFrom: '3.0', buildTime: seconds('2025-10-08T11:00Z') }
  const mail = 'mail of the maker’s key desk, 2026-11-12'
  const onTheSpot = 'built on the spot, 2026-11-18'
  return [
    inverterBundle(),
    radioCard(),
    one('marine-radio', { variant: 'high-channel' }, 'mr6_4.08_hi.bin', { before: {} }),
    one('station-inverter', { model: 'LI-30', buildTime: built + 60 }, 'li30-a-3.6.hex'),
    one('buoy-battery', {}, 'bp5_update.s19'),
    one('buoy-battery', { version: '58.04' }, 'bp5_update (1).s19'),
    one('launch-motor', drive36, 'drive-3.6.elf'),
    one('launch-motor', {}, 'drive-4.1.elf', { before: drive36 }),
    one('beacon-receiver', {}, 'for-77120-2.4.0.bin', { from: mail }),
    one('tide-logger', {}, 'tide-2026-03-16.dfu'),
    one('tide-logger', { version: '2026-09-02', requiresFrom: '2026-03-16' }, 'tide-2026-09-02.dfu', {
      before: {},
    }),
    ...joints,
    one('mains-relay', {}, 'quay-relay-2.1.uf2', { from: onTheSpot }),
    one('mains-relay', { options: 0b001 }, 'quay-relay-2.1 (1).uf2', { from: onTheSpot, before: {} }),
    { name: 'amber.rom', from: 'read out of the desk’s old chip, 2024-03-02', file: raw(amber) },
    one('signal-desk', { precursor: contentDigest(amber).slice(0, 16) }, 'birch.rom'),
    one('signal-desk', { hardwareMajor: 1, precursor: brassAmberDigest().slice(0, 16) }, 'birch-brass.rom'),
  ]
}

const amberDesk: DemoFirmware = {
  component: 'chip',
  length: 0x20000,
  fields: {
    ...common,
    deviceIdentifier: 'SD-1',
    hardwareMajor: 2,
    version: 'AMBER',
    buildTime: seconds('2023-01-17T10:00Z'),
  },
}

/** Digest of what the stand-in of the desk with brass keys has in its chip (stand-ins.ts). */
export const brassAmberDigest = () =>
  contentDigest(
    placed(
      demoFamily('signal-desk'),
      demoFieldsOf('signal-desk', 'chip', {
        hardwareMajor: 1,
        version: 'AMBER',
        serial: 'SD-001',
        buildTime: seconds('2025-02-11T00:00Z'),
      }),
    ),
  )

/** Digest that the signal desk shows of its present program. */
export const amberDigest = () => contentDigest(placed(demoFamily('signal-desk'), amberDesk))
