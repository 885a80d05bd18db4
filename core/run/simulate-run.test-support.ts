import { componentOf, drivenLink } from '@bench-wake/core/family'
import { identifyImage } from '@bench-wake/core/image'
import { demoFamily, demoFieldsOf, demoStandIn, demoUnits, placed } from '@bench-wake/demo'
import { seeded, standInOf, unitMemoryOf } from '@bench-wake/standins'
import { equalBytes, sha256Hex, virtualClock, type Clock } from '../kernel'
import { linkResumes, portLost, usbStall, type Channel, type Port, type UsbPort } from '../link'
import { knownPage } from '../unit'
import {
  brokenAt,
  carryOut,
  conditionOf,
  foldEvent,
  foldWake,
  goesOnFrom,
  goesOnWith,
  JournalLost,
  legPlan,
  loadsOf,
  openStepLeft,
  planPieces,
  powerStood,
  sealEvent,
  wakeWriter,
  type Backup,
  type RunState,
  type WakeBody,
  type WakeEvent,
} from '.'
import { releasesOf, type Scenario } from './scenarios.test-support'

/*
 * A simulated run: one unit brought from its old image to the new one over as many legs as it takes, with a fault in each of the
 * first legs. The stand-in is the opponent; the truth is what lies in its memory.
 */

export const faultKinds = [
  'none',
  'cable pulled',
  'byte flipped',
  'byte lost',
  'late answer',
  'brown-out',
  'second unit',
  'program killed',
  'disk full',
  'clock jump',
  'weak line',
] as const
export type FaultKind = (typeof faultKinds)[number]

export interface SimulatedRun {
  legs: number
  proved: boolean
  faults: FaultKind[]
  events: WakeEvent[]
  state: RunState
  backups: Backup[]
  /** The image lies in the unit's memory, whole. */
  holds: boolean
}

/** Legs after which a unit that is still not proved counts as lost. */
const maxLegs = 6
/** A write of this size shows every part of the protocols and does not take long. */
const imageBytes = 6 * 1024
/** What a weak line still carries, baud. */
const weakAbove = 57_600

/** A channel on which one thing goes wrong, at the n-th transfer. */
function faulty(
  channel: Channel,
  clock: Clock,
  kind: FaultKind,
  at: number,
  random: () => number,
  brownOut: () => void,
  killed: () => boolean,
): Channel {
  let count = 0
  let gone = false
  const due = () => ++count === at
  const during = () => count >= at && count < at + 12
  const check = (name: string) => {
    if (gone || killed()) throw portLost(name)
  }
  const spoil = (bytes: Uint8Array): Uint8Array => {
    const place = Math.floor(random() * bytes.length)
    if (kind === 'byte lost') return bytes.filter((_, index) => index !== place)
    return bytes.map((byte, index) => (index === place ? byte ^ (1 << Math.floor(random() * 8)) : byte))
  }
  const before = async (name: string) => {
    check(name)
    const now = due()
    if (now && kind === 'cable pulled') {
      gone = true
      throw portLost(name)
    }
    if (now && kind === 'brown-out') brownOut()
    if (now && kind === 'late answer') await clock.sleep(random() * 4000)
    return now
  }
  if (channel.kind === 'usb') {
    const { port } = channel
    const around = async <T>(act: () => Promise<T>): Promise<T> => {
      const now = await before(port.name)
      // A packet on USB has its own check and is sent again by the bus: what comes wrong is refused (USB 2.0, 8.7).
      if (now && (kind === 'byte flipped' || kind === 'byte lost')) throw usbStall(port.name, 'transfer')
      if (kind === 'second unit' && during()) throw usbStall(port.name, 'transfer')
      return act()
    }
    const wrapped: UsbPort = {
      ...port,
      name: port.name,
      controlIn: (setup, length) => around(() => port.controlIn(setup, length)),
      controlOut: (setup, data) => around(() => port.controlOut(setup, data)),
      transferIn: (endpoint, length) => around(() => port.transferIn(endpoint, length)),
      transferOut: (endpoint, data) => around(() => port.transferOut(endpoint, data)),
    }
    return { kind: 'usb', port: wrapped }
  }
  const { port } = channel
  const wrapped: Port = {
    name: port.name,
    get settings() {
      return port.settings
    },
    open: (settings) => port.open(settings),
    close: () => port.close(),
    setLines: (lines) => port.setLines(lines),
    async write(bytes) {
      const now = await before(port.name)
      // A long or poor cable: whole blocks do not pass at a high speed, and do at a lower one.
      const weak = kind === 'weak line' && bytes.length > 60 && port.settings.baudRate > weakAbove
      const wrong = weak || (now && (kind === 'byte flipped' || kind === 'byte lost'))
      await port.write(wrong ? spoil(bytes) : bytes)
    },
    async read(max, timeoutMs) {
      check(port.name)
      const bytes = await port.read(max, timeoutMs)
      // Two that answer at once: what arrives is neither.
      return bytes && kind === 'second unit' && during() ? spoil(bytes) : bytes
    },
  }
  return { kind: 'serial', port: wrapped }
}

/**
 * One simulated run.
 * @param faults one for each leg from the first; later legs are undisturbed.
 * @throws Error when an event that was acknowledged is missing, the chain is broken, or `proved` is said of a unit that
 *   does not hold the image.
 */
export async function simulateRun(
  scenario: Scenario,
  faults: readonly FaultKind[],
  seed: number,
  turn: () => Promise<void>,
  /** How far on things go wrong, against a run of one component. */
  farther = 1,
): Promise<SimulatedRun> {
  const random = seeded(seed)
  const clock = virtualClock(turn, Date.UTC(2026, 10, 24, 8))
  const demo = demoUnits.find(({ id }) => id === scenario.unitId)!
  const family = demoFamily(demo.familyId)
  const component = componentOf(family, scenario.component)
  const { hardware, flash, lines } = demoStandIn(demo)
  const unit = standInOf(
    {
      id: demo.id,
      name: demo.name,
      family,
      hardware,
      serial: demo.serial,
      state: { flash, usedAh: 0, inBootloader: false, lines },
    },
    scenario.linkId,
  )
  unit.unplug?.(family.isolation?.neighbours.map(({ id }) => id) ?? [])
  const link = drivenLink(family, scenario.linkId)!
  const resumes = linkResumes(link)
  const pieces = [scenario.component, ...(scenario.also ?? [])].map((id) => {
    const fields = demoFieldsOf(family.id, id, { ...scenario.fields, serial: demo.serial })
    const memory = placed(family, { ...fields, length: Math.min(fields.length, imageBytes) })
    const own = componentOf(family, id)
    return {
      component: own,
      loads: loadsOf(own, memory),
      bytes: memory[0]!.bytes,
      image: {
        name: 'image',
        memory,
        identity: identifyImage(memory, [family], [sha256Hex(memory[0]!.bytes)]),
      },
    }
  })
  const [, ...also] = pieces
  const recorded = ({ component: { id, name }, bytes }: (typeof pieces)[number]) => ({
    component: { id, name },
    image: { id: `i-${id}`, name: 'image', sha256: '0', bytes: bytes.length },
  })
  const plan = planPieces(family, link, pieces)
  const lastPage = knownPage(
    demo.pages.map(({ source, at, lines: said }) => ({
      at: Date.parse(at),
      source,
      lines: Object.entries(said).map(([field, value]) => ({ field, label: field, value })),
    })),
  )
  const onIt = {
    port: { id: 'p', name: 'stand-in', standIn: true },
    speed: 0,
    floorVolts: family.power.floorVolts,
    releases: releasesOf(scenario),
  }
  const kept: WakeEvent[] = []
  /** Whatever the journal said it had kept. */
  const acknowledged = new Set<string>()
  const backups: Backup[] = []
  const holds = () =>
    pieces.every(({ component: { id }, bytes }) =>
      equalBytes(unitMemoryOf(family, flash, id).subarray(0, bytes.length), bytes),
    )
  let legs = 0
  let state: RunState | null = null

  while (legs < maxLegs) {
    const fault = faults[legs] ?? 'none'
    legs++
    // Most faults come early, where there is most to go wrong; some after a long reading.
    const at = 1 + Math.floor(farther * random() * (random() < 0.3 ? 800 : 160))
    let room =
      fault === 'program killed' || fault === 'disk full' ? 4 + Math.floor(farther * random() * 30) : Infinity
    let offset = 0
    let events = 0
    const skewed: Clock = { ...clock, now: () => clock.now() + offset }
    /** What the program would write as soon as the disk takes it again: it does before the next leg. */
    const owed: { body: WakeBody; at: number }[] = []
    let killed = false
    const wake = wakeWriter(
      {
        async append(event) {
          if (fault === 'clock jump' && ++events === 12) offset = (random() - 0.3) * 7_200_000
          if (--room < 0) {
            // Killed outright the event may be on disk, but nobody lived to hear of it; a full disk keeps nothing.
            if (fault === 'program killed' && !killed) kept.push(event)
            killed ||= fault === 'program killed'
            throw new Error(fault)
          }
          kept.push(event)
          acknowledged.add(event.hash)
        },
        owe: (body, at) => {
          // Who was killed owes nothing any more.
          if (!killed) owed.push({ body, at })
        },
      },
      skewed,
      kept.at(-1),
    )
    // As the server plans it: from where the leg before left the unit.
    const ofLeg = state ? legPlan(plan, state) : plan
    const opened = { ...onIt, plan: ofLeg }
    const goesOnAt = state && resumes ? goesOnFrom(state) : null
    const alreadyWritten = state !== null && !['as-it-was', 'in-bootloader'].includes(conditionOf(state))
    const channel = faulty(
      unit.connect(clock).channel,
      clock,
      fault,
      at,
      random,
      () => unit.powerCycle(),
      () => killed,
    )
    try {
      if (state === null) {
        await wake.record({
          type: 'run.opened',
          runId: 'run-1',
          job: { id: 'job-1', reason: 'a simulated run' },
          unit: { id: demo.id, name: demo.name, place: demo.place, serial: demo.serial },
          family: { id: family.id, revision: family.revision, name: family.name },
          ...recorded(pieces[0]!),
          ...(also.length > 0 ? { also: also.map(recorded) } : {}),
          ...opened,
        })
      } else {
        await wake.record({
          type: 'leg.opened',
          leg: state.leg + 1,
          ...(goesOnAt === null ? {} : { goesOnAt }),
          ...opened,
        })
      }
      await carryOut(
        ofLeg,
        {
          family,
          component,
          link,
          unit: { id: demo.id, serial: demo.serial, name: demo.name },
          lastPage,
          image: pieces[0]!.image,
          also,
          ...(state ? { goesOnPiece: goesOnWith(state) } : {}),
          use: { 'signal-output': 'low-channel' },
          goesOnAt,
          alreadyWritten,
          powerStood: powerStood(state),
          releases: releasesOf(scenario),
        },
        {
          channel,
          clock: skewed,
          wake,
          answers: {
            async wait(prompt) {
              if (prompt === 'power-cycle') unit.powerCycle()
              if (prompt === 'enter-by-hand') unit.enter?.()
              if (prompt === 'power-stands') return random() < 0.5 ? 'stands' : 'again'
              return prompt === 'other-adapter' ? 'stop' : 'done'
            },
          },
          async keepBackup(backup) {
            backups.push(backup)
            return { imageId: `backup-${backups.length}`, findings: [] }
          },
          abandon: { raised: false },
          halt: { raised: false },
        },
      )
    } catch (error) {
      if (!(error instanceof JournalLost)) throw error
    }
    for (const { body, at: when } of owed) kept.push(sealEvent(body, when, kept.at(-1)))
    const last = kept.at(-1)
    // What the next start does with a run that was left open.
    if (last && foldWake(kept)?.outcome === 'running')
      kept.push(sealEvent({ type: 'cut', why: 'The program ended in the middle of it.' }, last.at, last))
    state = foldWake(kept)
    const where = `${scenario.unitId}, seed ${seed}, leg ${legs} (${fault})`
    if (brokenAt(kept) !== null) throw new Error(`${where}: the chain of events is broken`)
    const there = new Set(kept.map(({ hash }) => hash))
    for (const hash of acknowledged) if (!there.has(hash)) throw new Error(`${where}: an event was lost`)
    if (state?.outcome === 'proved' && !holds()) {
      throw new Error(`${where}: proved, and the memory is not the image`)
    }
    if (state?.outcome === 'proved') break
    // Switched off and on between two legs now and then, as people do.
    if (random() < 0.3) unit.powerCycle()
  }
  return {
    legs,
    proved: state?.outcome === 'proved',
    faults: [...faults],
    events: kept,
    state: state!,
    backups,
    holds: holds(),
  }
}

/** Faults of a simulated run by its seed: one or two legs that go wrong. */
export function faultsOf(seed: number): FaultKind[] {
  const random = seeded(seed ^ 0x0fa17)
  const one = () => faultKinds[1 + Math.floor(random() * (faultKinds.length - 1))]!
  return random() < 0.35 ? [one(), one()] : [one()]
}

/** Largest error of the time left, from a fifth of the write on, against what it really took. */
export function worstTimeLeft(events: readonly WakeEvent[], plan: readonly { kind: string }[]): number {
  const at = plan.findIndex(({ kind }) => kind === 'write')
  const { startedAt = 0, endedAt = 0 } = foldWake(events)!.steps[at]!
  let worst = 0
  let run: RunState | null = null
  for (const event of events) {
    run = foldEvent(run, event)
    const { body } = event
    if (body.type !== 'progress' || body.step !== at || body.done < 0.2 * body.total) continue
    const truth = endedAt - event.at
    // The last fiftieth is over before anybody has read it.
    if (body.done === body.total || truth < 0.02 * (endedAt - startedAt)) continue
    worst = Math.max(worst, Math.abs(openStepLeft(run!, run!.steps[at]!, event.at) - truth) / truth)
  }
  return worst
}
