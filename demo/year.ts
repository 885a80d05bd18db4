import type { ReasonKind } from '@bench-wake/core/fit'
import { seeded } from '@bench-wake/standins'
import { demoUnits, type DemoUnit } from './units'

/** A job of the past year: its unit, how it went leg by leg, and who closed it with which word. */
export interface YearJob {
  id: string
  unit: DemoUnit
  image: string
  kind: ReasonKind
  reason: string
  daysAgo: number
  /** Each try: where its plug came out, as a part of the image, and which blocks arrived broken. */
  legs: { cutAt?: number; flippedBlocks?: number[] }[]
  by: string
  note: string
  /** How the unit is used, where its kind asks. */
  answers?: { question: string; answer: string }
}

const people = ['M. Ferrow', 'A. Lund', 'T. Reader', 'J. Quill', 'S. Marden']

/** A kind of unit that there are several of: which it is like, where they stand, and the image that went into them. */
interface Fleet {
  like: string
  id: string
  name: (number: number) => string
  places: readonly string[]
  serial: (number: number) => string
  count: number
  image: string
  reasons: readonly [ReasonKind, string][]
  answers?: YearJob['answers']
}

const fleets: readonly Fleet[] = [
  {
    like: 'fog-11',
    id: 'fog-2',
    name: (number) => `Fog signal ${20 + number}`,
    places: ['West mole', 'Skerrow Point', 'Inner breakwater', 'Landing stage'],
    serial: (number) => `FS3-003${10 + number}`,
    count: 14,
    image: 'fs20-main-2.48.hex',
    reasons: [
      ['fault', 'Horn skips a blast. 2.48 cures it.'],
      ['feature', 'Keep current with the others of the mole.'],
      ['feature', 'Two blasts in the new rhythm.'],
    ],
  },
  {
    like: 'battery-14',
    id: 'battery-3',
    name: (number) => `Battery of buoy ${30 + number}`,
    places: ['Outer channel', 'Bar buoy', 'Anchorage', 'Workshop, shelf 2'],
    serial: (number) => `BP-025${10 + number}`,
    count: 16,
    image: 'bp5_update.s19',
    reasons: [
      ['fault', 'Cuts off early in cold water.'],
      ['feature', 'Brought up with the yearly service.'],
    ],
  },
  {
    like: 'relay-2',
    id: 'relay-1',
    name: (number) => `Shore supply relay ${10 + number}`,
    places: ['Quay 1, box A', 'Quay 1, box B', 'Quay 3, box A', 'Slip, box D'],
    serial: (number) => `QR-56${10 + number}`,
    count: 16,
    image: 'quay-relay-2.1.uf2',
    reasons: [
      ['fault', 'Drops out when the network is gone.'],
      ['feature', 'All relays of a quay the same.'],
    ],
  },
  {
    like: 'radio-3',
    id: 'radio-1',
    name: (number) => `Handheld ${10 + number}`,
    places: ['Pilot launch, wheelhouse', 'Harbour office', 'Lock, west side'],
    serial: (number) => `MR-402${10 + number}`,
    count: 12,
    image: 'RADIO.BIN',
    reasons: [
      ['feature', 'Dual watch, for the lock.'],
      ['fault', 'Goes deaf after a scan.'],
    ],
    answers: { question: 'signal-output', answer: 'low-channel' },
  },
  {
    like: 'scale-1',
    id: 'scale-2',
    name: (number) => `Crane scale ${20 + number}`,
    places: ['Slip crane', 'Yard crane', 'Workshop'],
    serial: (number) => `CS-10${40 + number}`,
    count: 6,
    image: 'cs12-5.2.bin',
    reasons: [['fault', 'Zero drifts on cold mornings. 5.2 cures it.']],
  },
]

const well = [
  'Works as it should.',
  'Tried twice, all in order.',
  'Left running, looked at again an hour later.',
  'Nothing to remark.',
]

/**
 * The past year: more than sixty jobs on units of their own, spread over 360 days, most of them plain, some with blocks sent
 * again, some cut and gone on with, some never brought home. The same for the same seed.
 */
export function demoYear(seed = 2026): YearJob[] {
  const random = seeded(seed)
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!
  const jobs = fleets.flatMap((fleet) =>
    Array.from({ length: fleet.count }, (_, index): YearJob => {
      const number = index + 1
      const like = demoUnits.find(({ id }) => id === fleet.like)!
      const serial = fleet.serial(number)
      const unit: DemoUnit = {
        ...like,
        id: `${fleet.id}${String(number).padStart(2, '0')}`,
        name: fleet.name(number),
        place: one(fleet.places),
        serial,
        pages: like.pages.map((page) => ({ ...page, lines: { ...page.lines, serial } })),
      }
      const [kind, reason] = one(fleet.reasons)
      const at = () => 0.1 + 0.8 * random()
      const luck = random()
      const legs: YearJob['legs'] =
        luck < 0.62
          ? [{}]
          : luck < 0.78
            ? [{ flippedBlocks: [3 + Math.floor(random() * 12)] }]
            : luck < 0.92
              ? [{ cutAt: at() }, {}]
              : luck < 0.96
                ? [{ cutAt: at() }, { cutAt: at() }, {}]
                : [{ cutAt: at() }]
      const home = legs.at(-1)!.cutAt === undefined
      return {
        id: `job-${unit.id}`,
        unit,
        image: fleet.image,
        kind,
        reason,
        daysAgo: 8 + Math.floor(random() * 352),
        legs,
        by: one(people),
        note: home
          ? legs.length > 1
            ? 'The plug came out in the middle; held it by hand, then it went through.'
            : one(well)
          : 'Its service socket is broken. The unit is marked half-written and went to the maker.',
        ...(fleet.answers && { answers: fleet.answers }),
      }
    }),
  )
  return jobs.toSorted((a, b) => b.daysAgo - a.daysAgo || a.id.localeCompare(b.id))
}
