import { readFamily, type FamilyDocument } from '@bench-wake/core/family'
import fogSignalDocument from './families/fog-signal.json' with { type: 'json' }
import { demoHex, type DemoImage } from './image'

export * from './image'

/** The families of Corrie Sound Lights & Launches, as documents. */
export const demoFamilies = [fogSignalDocument as FamilyDocument]
export const fogSignalFamily = readFamily(fogSignalDocument)

const day = (text: string) => Date.parse(text) / 1000

/** What lies on the shelf. The names are as unhelpful as real ones are (PRACTICE B2). */
export const demoImages: { name: string; image: DemoImage }[] = [
  {
    name: 'fs20-main-2.48.hex',
    image: {
      deviceIdentifier: 'FS-20',
      hardware: [3, 0],
      version: '2.48',
      release: 'production',
      built: day('2026-09-02T08:14Z'),
      length: 0x40000,
    },
  },
  {
    name: 'fs20-main-2.41.hex',
    image: {
      deviceIdentifier: 'FS-20',
      hardware: [3, 0],
      version: '2.41',
      release: 'production',
      built: day('2025-03-04T10:12Z'),
      length: 0x3c000,
    },
  },
  {
    name: 'update(1).hex',
    image: {
      deviceIdentifier: 'FS-20',
      hardware: [2, 0],
      version: '2.48',
      release: 'production',
      built: day('2026-09-02T08:31Z'),
      length: 0x38000,
    },
  },
  {
    name: 'fs20_2.49_try.hex',
    image: {
      deviceIdentifier: 'FS-20',
      hardware: [3, 0],
      version: '2.49',
      release: 'test',
      built: day('2026-11-10T16:40Z'),
      length: 0x40000,
    },
  },
  {
    name: 'horn-main-2.48.hex',
    image: {
      deviceIdentifier: 'FS-40',
      hardware: [3, 0],
      version: '2.48',
      release: 'production',
      built: day('2026-09-02T09:02Z'),
      length: 0x30000,
    },
  },
]

export const demoHexOf = (image: DemoImage): string => demoHex(fogSignalFamily, image)

export interface DemoUnit {
  id: string
  name: string
  place: string
  serial: string
  hardware: string
  /** What is on it; null for a unit that nobody has read yet. */
  firmware: { version: string; built: string } | null
  readAt?: string
  /** True when a stand-in of it sits on the bench. */
  standIn: boolean
}

export const demoUnits: DemoUnit[] = [
  {
    id: 'fog-07',
    name: 'Fog signal 07',
    place: 'Skerrow Point',
    serial: 'FS3-00417',
    hardware: '3.1',
    firmware: { version: '2.41', built: '2025-03-04T10:12Z' },
    readAt: '2026-11-19T13:20:00Z',
    standIn: true,
  },
  {
    id: 'fog-02',
    name: 'Fog signal 02',
    place: 'Brann Rock, upper gallery',
    serial: 'FS2-00088',
    hardware: '2.4',
    firmware: { version: '2.30', built: '2023-06-21T07:55Z' },
    readAt: '2026-11-20T09:05:00Z',
    standIn: true,
  },
  {
    id: 'fog-11',
    name: 'Fog signal 11',
    place: 'Little Hesper, north mole',
    serial: 'FS3-00502',
    hardware: '3.2',
    firmware: { version: '2.41', built: '2025-03-04T10:12Z' },
    readAt: '2026-11-17T10:41:00Z',
    standIn: true,
  },
  {
    id: 'fog-04',
    name: 'Fog signal 04, spare in the store',
    place: 'Corrie Sound depot',
    serial: 'FS3-00391',
    hardware: '3.1',
    firmware: null,
    standIn: false,
  },
]

export interface DemoJob {
  id: string
  unitId: string
  /** Name of the image on the shelf; null where none is chosen yet. */
  image: string | null
  reason: string
  day: string
  /** What happened to it before today, leg by leg; the last leg proved it. */
  past?: { powerFailsAtByte?: number; flippedBlocks?: number[] }[]
}

/** `day` is counted in days from the day of seeding. */
export const demoJobs: (Omit<DemoJob, 'day'> & { inDays: number })[] = [
  {
    id: 'job-fog-07',
    unitId: 'fog-07',
    image: 'fs20-main-2.48.hex',
    reason: 'Horn skips a blast about twice a night, since August. 2.48 cures it.',
    inDays: 0,
  },
  {
    id: 'job-fog-02',
    unitId: 'fog-02',
    image: 'fs20-main-2.48.hex',
    reason: 'Keep current with 07.',
    inDays: 0,
  },
  {
    id: 'job-fog-04',
    unitId: 'fog-04',
    image: null,
    reason: 'Bring the spare to the same version before it goes into the store.',
    inDays: 1,
  },
  {
    id: 'job-fog-11',
    unitId: 'fog-11',
    image: 'fs20-main-2.48.hex',
    reason: 'Horn skips a blast, seen once.',
    inDays: -6,
    past: [{ powerFailsAtByte: 157_000 }, { flippedBlocks: [84, 85] }],
  },
]
