import type { ReasonKind, Symptom } from '@bench-wake/core/fit'

import type { BenchInputs } from '@bench-wake/core/ready'
import { demoBenches } from './benches'

export interface DemoJob {
  id: string
  unitId: string
  /** Name of the image on the shelf; null where none is chosen yet. */
  image: string | null
  kind: ReasonKind
  reason: string
  symptoms?: Symptom[]
  /** What was said of the bench before. */
  bench?: BenchInputs
  /** What is packed for its day already. */
  packed?: string[]
  /** Days from the day of seeding. */
  inDays: number
  /** What happened to it before today, leg by leg; the last leg proved it. */
  past?: { powerFailsAtByte?: number; flippedBlocks?: number[] }[]
}

export const demoJobs: DemoJob[] = [
  {
    id: 'job-fog-07',
    unitId: 'fog-07',
    image: 'fs20-main-2.48.hex',
    kind: 'fault',
    reason: 'Horn skips a blast about twice a night, since August. 2.48 cures it.',
    symptoms: [{ says: 'Horn skips a blast', often: 'about twice a night', since: '2026-08-12' }],
    bench: { wiring: demoBenches['fog-signal']!.wiring!, laptop: { onMains: true, minutesLeft: null } },
    packed: ['image-on-disk', 'multimeter', 'ear-protection', 'adapter-fog-cable', 'fuse-puller'],
    inDays: 0,
  },
  {
    id: 'job-fog-02',
    unitId: 'fog-02',
    image: 'fs20-main-2.48.hex',
    kind: 'currency',
    reason: 'Keep current with 07.',
    inDays: 0,
  },
  {
    id: 'job-launch-2',
    unitId: 'launch-2',
    image: 'drive-4.1.elf',
    kind: 'fault',
    reason: 'Surges when creeping off the slip.',
    // Measured with the key on: lamps, blower and sockets drew while the meter was read.
    bench: { celsius: 8, measured: { volts: 12.08, shed: [], charger: null } },
    symptoms: [{ says: 'Surges at slow speed', often: 'every launch', since: '2026-10-30' }],
    inDays: 0,
  },
  {
    id: 'job-tide-2',
    unitId: 'tide-2',
    image: 'tide-2026-09-02.dfu',
    kind: 'feature',
    reason: 'The new server wants readings with seconds.',
    inDays: 0,
  },
  {
    id: 'job-fog-04',
    unitId: 'fog-04',
    image: null,
    kind: 'currency',
    reason: 'Bring the spare to the same version before it goes into the store.',
    inDays: 1,
  },
  {
    id: 'job-davit-1',
    unitId: 'davit-1',
    image: 'j0_521.hex',
    kind: 'fault',
    reason: 'Elbow sinks a hand’s breadth under load.',
    symptoms: [{ says: 'Elbow creeps under load', often: 'each lift', since: '2026-09-14' }],
    inDays: 1,
  },
  {
    id: 'job-inverter-1',
    unitId: 'inverter-1',
    image: 'rel/img1.hex',
    kind: 'fault',
    reason: 'Trips when both pumps start.',
    symptoms: [{ says: 'Trips with both pumps', often: 'twice a week', since: '2026-07-01' }],
    bench: { wiring: demoBenches['station-inverter']!.wiring! },
    packed: ['multimeter', 'insulated-tools', 'image-on-disk'],
    inDays: 1,
  },
  {
    id: 'job-battery-21',
    unitId: 'battery-21',
    image: null,
    kind: 'currency',
    reason: 'New pack; bring it to the newest before it goes out.',
    inDays: 2,
  },
  {
    id: 'job-beacon-8',
    unitId: 'beacon-8',
    image: null,
    kind: 'fault',
    reason: 'Answers a second late.',
    symptoms: [{ says: 'Answers late', often: 'most calls', since: '2026-10-02' }],
    inDays: 2,
  },
  {
    id: 'job-gate-1',
    unitId: 'gate-1',
    image: 'tg6-board3-3.5.hex',
    kind: 'fault',
    reason: 'Shuts minutes after the tide has turned. 3.5 cures it.',
    symptoms: [{ says: 'Gate shuts late', often: 'at spring tides', since: '2026-09-28' }],
    inDays: 1,
  },
  {
    id: 'job-scale-1',
    unitId: 'scale-1',
    image: 'cs12-5.2.bin',
    kind: 'fault',
    reason: 'Zero drifts on cold mornings. 5.2 cures it.',
    symptoms: [{ says: 'Zero drifts in the cold', often: 'most mornings', since: '2026-11-03' }],
    inDays: 3,
  },
  {
    id: 'job-fog-11',
    unitId: 'fog-11',
    image: 'fs20-main-2.48.hex',
    kind: 'fault',
    reason: 'Horn skips a blast, seen once.',
    symptoms: [{ says: 'Horn skips a blast', often: 'once', since: '2026-11-11' }],
    inDays: -6,
    past: [{ powerFailsAtByte: 157_000 }, { flippedBlocks: [84, 85] }],
  },
]

/** Images that were asked for and have not come (PRACTICE B8, L1). */
export const demoRequests = [
  {
    unitId: 'beacon-8',
    asked: 'Image 2.4.0 for BR-77121, with its keys.',
    of: 'the maker’s key desk',
    askedDaysAgo: 9,
    dueInDays: 3,
    answer: { says: 'Registered; it comes by mail within the fortnight.', by: 'R. Tolland', daysAgo: 6 },
  },
]
