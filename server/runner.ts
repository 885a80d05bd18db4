import {
  componentOf,
  drivenLink,
  type Component,
  type DrivenLink,
  type Family,
} from '@bench-wake/core/family'
import {
  isProblem,
  Problem,
  realClock,
  verdictAfter,
  virtualClock,
  asciiBytes,
  type Clock,
  type Finding,
  type Release,
  type VirtualClock,
} from '@bench-wake/core/kernel'
import { shutLinkOf, standing } from '@bench-wake/core/job'
import { writeIntelHex, type ImageIdentity } from '@bench-wake/core/image'
import {
  channelOf,
  discardInput,
  linkResumes,
  scanBus,
  scpiMeter,
  speechOf,
  talkOver,
  tapChannel,
  type BusScan,
  type Channel,
  type SerialSettings,
  type Talk,
  type TraceSpeech,
} from '@bench-wake/core/link'
import {
  benchGates,
  gatesBeforeLink,
  isolationNow,
  judgeLaptopFor,
  judgePort,
  shutLink,
  type Gate,
  type LaptopSay,
  type LaptopTask,
} from '@bench-wake/core/ready'
import {
  bareSteps,
  carryOut,
  conditionOf,
  foldEvent,
  foldWake,
  goesOnFrom,
  goesOnWith,
  guidance,
  loadsOf,
  powerStood,
  readUnit,
  sealEvent,
  timeLeft,
  wakeWriter,
  type Backup,
  type Journal,
  type RunState,
  type WakeEvent,
  type WakeWriter,
} from '@bench-wake/core/run'
import { knownPage, lineOf, type Snapshot, type UnitFacts } from '@bench-wake/core/unit'
import type { StandIn } from '@bench-wake/standins'
import { randomUUID } from 'node:crypto'
import type { Database } from './db/open'
import { hostTime, nextTurn, paceOf } from './host-time'
import { newId } from './new-id'
import type { PortEntry, Ports } from './ports/ports'
import { refusePractice } from './ports/practice-port'
import { TraceLog } from './ports/trace-log'
import { fitGates } from './store/job-gates'
import { refuseClosed, sayBench } from './store/job-rows'
import { openJob, type OpenJob } from './store/jobs'
import { getHouse } from './store/house'
import { laptopNow } from './store/laptop'
import { databaseTrouble } from './db/trouble'
import { debtsOf } from './store/debts'
import { appendEvent, getRun, lastEvent, openRun, payDebts, readWake } from './store/runs'
import type { OpenImage, Shelf } from './store/shelf'
import { keepStandIn } from './store/stand-ins'
import { getUnit } from './store/units'

/** Speeds of a stand-in: as in life, 10 and 60 times as fast, and 0 for unpaced. */
export const speeds = [1, 10, 60, 0] as const
export type Speed = (typeof speeds)[number]

/** What holds a port that is only listened to. */
const listening = 'listening'
/** A unit that does not answer within this is not there, ms. */
const scanAnswerMs = 200
const meterSettings: SerialSettings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }
/** What the disk did not take is tried again this often, ms. */
const payEveryMs = 2000
/** A stand-in's memory is kept this often while it is written, ms. */
const keepEveryMs = 1000

export interface StartForm {
  jobId: string
  /** Absent where the image goes in by hand. */
  port?: string
  speed?: Speed
  /** Volts a person measured, for ports without a meter. */
  supplyVolts?: number
  releases?: Release[]
}

interface ActiveRun {
  id: string
  portId: string
  speed: Speed
  state: RunState | null
  last: WakeEvent | undefined
  wake: WakeWriter
  answers: Map<string, (answer: string) => void>
  abandon: { raised: boolean; token?: string }
  halt: { raised: boolean }
  listeners: Set<(event: WakeEvent) => void>
  finished: Promise<void>
  /** Called when the run waits for a person, who may not come before the program ends. */
  onWaiting: () => void
}

/** What works on a job and its unit. */
interface Busy {
  job: string
  run?: string
}
const busyKey = (what: 'job' | 'unit', id: string) => `${what} ${id}`

/** Runs live here, in the server, so that a closed tab never hurts a write. One run a port. */
export class Runner {
  private readonly active = new Map<string, ActiveRun>()
  private readonly held = new Map<string, string>()
  /** Jobs and units that a run works on, whatever its port. */
  private readonly busy = new Map<string, Busy>()
  private readonly readings = new Map<string, Promise<unknown>>()
  private ending = false
  private readonly traces = new Map<string, TraceLog>()
  /** Ports that are only listened to, by what ends it. */
  private readonly listened = new Map<string, () => Promise<void>>()

  constructor(
    private readonly db: Database,
    private readonly shelf: Shelf,
    private readonly ports: Ports,
    /** This program among those that work on the same database. */
    private readonly program: string | null = null,
  ) {}

  /** The run that holds a port. */
  readonly heldBy = (portId: string): string | undefined => this.held.get(portId)

  async listPorts(): Promise<PortEntry[]> {
    return this.ports.list(this.heldBy)
  }

  /** Every gate between a job and its run. `unknown` is never go. */
  async ready(jobId: string, portId: string | null, typedVolts: number | null): Promise<Gate[]> {
    const open = await openJob(this.db, this.shelf, jobId)
    return this.gatesOf(open, portId, typedVolts)
  }

  private async gatesOf(open: OpenJob, portId: string | null, typedVolts: number | null): Promise<Gate[]> {
    const today = new Date().toISOString().slice(0, 10)
    const standing = fitGates(open, today)
    const port = portId === null ? null : await this.ports.find(portId, this.heldBy)
    const measured = port?.hasMeter && !port.heldBy ? await this.measure(port.id) : typedVolts
    const bench = benchGates({
      family: open.family,
      said: open.bench,
      stretches: open.stretches,
      metered: measured,
      adapters: open.adapters,
      house: open.house,
      kit: open.kit,
      day: open.job.day,
      today,
      now: Date.now(),
      standIn: port?.kind === 'stand-in',
      underWay: this.underWay(open.job.id),
    })
    // Without a link of its own the program opens no port.
    if (!open.link) return [...standing, ...bench]
    return [
      ...standing,
      judgePort(
        port && {
          id: port.id,
          name: port.name,
          standIn: port.kind === 'stand-in',
          present: port.present,
          ...(port.channel === channelOf(open.link) ? {} : { otherChannel: port.channel }),
          ...(port.heldBy ? { heldBy: port.heldBy } : {}),
          ...(port.program ? { program: port.program } : {}),
        },
      ),
      ...bench,
    ]
  }

  /** What is under way, with the time it still takes on the wall's clock. */
  private underWay(exceptJob?: string): LaptopTask[] {
    return [...this.active.values()].flatMap(({ state, speed }) =>
      state && state.outcome === 'running' && state.facts.job.id !== exceptJob
        ? [{ name: state.facts.unit.name, leftMs: speed === 0 ? 0 : timeLeft(state, state.at)! / speed }]
        : [],
    )
  }

  /** Whether the laptop lasts for every run under way (PRACTICE D3). */
  async laptop(): Promise<{ say: LaptopSay | null; gate: Gate }> {
    const say = await laptopNow(this.db)
    return { say: say ?? null, gate: judgeLaptopFor(say, null, this.underWay(), Date.now()) }
  }

  /** Volts at a stand-in's terminals with the unit idle, by its meter; null when it does not answer. */
  private async measure(portId: string): Promise<number | null> {
    return this.reading(portId, async () => {
      const clock = this.clockFor(0)
      const { channel, meter } = this.ports.connect(portId, clock)
      if (!meter) return null
      await meter.open(meterSettings)
      try {
        return await scpiMeter(meter).volts()
      } finally {
        await meter.close()
        await channel.port.close()
      }
    })
  }

  /** The channel with its trace kept: a new one begins each time a port is opened. */
  private traced(portId: string, channel: Channel, clock: Clock, speech: TraceSpeech): Channel {
    const log = new TraceLog({
      format: 'bench-wake/trace',
      formatVersion: 1,
      port: channel.port.name,
      startedAt: clock.now(),
      speech,
    })
    this.traces.set(portId, log)
    return tapChannel(channel, clock, log.tell)
  }

  /** What went over a port since it was opened last. @throws Problem `not-found` before it ever was. */
  traceOf(portId: string): TraceLog {
    const log = this.traces.get(portId)
    if (log) return log
    throw new Problem({
      kind: 'not-found',
      thing: portId,
      says: 'nothing has gone over this port yet',
      remedy: 'Read the unit, start a run, or listen to the port.',
    })
  }

  /** Opens a serial port and only listens, until `stopListening`. One program a port: a run cannot start meanwhile. */
  async listenTo(portId: string, settings: SerialSettings): Promise<void> {
    const entry = await this.ports.find(portId, this.heldBy)
    this.refuseHeld(portId)
    this.held.set(portId, listening)
    const clock = this.clockFor(1)
    try {
      const { channel: bare } = this.ports.connect(portId, clock)
      const channel = this.traced(portId, bare, clock, { speaks: 'bytes' })
      if (channel.kind !== 'serial') throw wrongChannel(entry.name)
      const { port } = channel
      await port.open(settings)
      const hear = async () => {
        for (;;) await discardInput(port, 60)
      }
      // Ends when the port is closed or pulled.
      const heard = hear().catch(() => {})
      this.listened.set(portId, async () => {
        await port.close()
        await heard
      })
    } catch (error) {
      this.held.delete(portId)
      throw error
    }
  }

  async stopListening(portId: string): Promise<void> {
    const stop = this.listened.get(portId)
    this.listened.delete(portId)
    await stop?.()
    if (this.held.get(portId) === listening) this.held.delete(portId)
  }

  /** The person's hand on a stand-in's cable, in the middle of a run too. */
  plug(portId: string, joined: boolean): void {
    this.ports.plug(portId, joined)
  }

  /** The person's hand on a lamp at a stand-in's battery. */
  light(portId: string, on: boolean): void {
    this.ports.light(portId, on)
  }

  cables() {
    return this.ports.standInCables()
  }

  /** Counts the units on a family's bus by asking every address who is there (PRACTICE F4). */
  async scan(portId: string, family: Family, unplugged: readonly string[]): Promise<BusScan> {
    const range = family.isolation?.scan
    const link = family.links.find((each) => each.kind === 'rs485' && each.line)
    if (!range || link?.kind !== 'rs485' || !link.line) {
      throw new Problem({
        kind: 'input',
        thing: family.name,
        says: 'this link cannot ask who is there',
        remedy: 'Look whether anything else is joined, and say so.',
      })
    }
    const entry = await this.ports.find(portId, this.heldBy)
    const { line } = link
    return this.reading(portId, async () => {
      this.ports.standIn(portId)?.unplug?.(unplugged)
      const clock = this.clockFor(entry.kind === 'stand-in' ? 0 : 1)
      const bare = this.ports.connect(portId, clock).channel
      const channel = this.traced(portId, bare, clock, { speaks: 'modbus' })
      if (channel.kind !== 'serial') throw wrongChannel(portId)
      const { port } = channel
      await port.open(line)
      try {
        return await scanBus(port, range.from, range.to, { answerMs: scanAnswerMs })
      } finally {
        await port.close()
      }
    })
  }

  /** Whether the bootloader answers now; asking changes nothing. False too where the link cannot tell. */
  async hearsBootloader(
    portId: string,
    family: Family,
    linkId?: string,
  ): Promise<{ answered: boolean; heard?: string }> {
    return this.talking(portId, family, linkId, async (talk) => {
      try {
        const { bootloader, text } = await talk.hears()
        return { answered: bootloader ?? false, ...(text ? { heard: text } : {}) }
      } catch (error) {
        if (isProblem(error)) return { answered: false }
        throw error
      }
    })
  }

  /**
   * Does over the link what an entry asks of the program: the command to the running firmware, the question whether the
   * bootloader is there, the adapter's own halt. Resolves when it was done, and not before.
   * @throws Problem `not-found`, and whatever the link says against it.
   */
  async entryAct(portId: string, family: Family, linkId: string | undefined, asked: EntryActAsked) {
    const way = family.entry.find(({ id }) => id === asked.way)
    const act = way?.script?.acts.find(({ id, by }) => id === asked.act && by === 'program')
    if (!way || !act) {
      throw new Problem({
        kind: 'not-found',
        thing: family.name,
        place: { at: `${asked.way}, ${asked.act}` },
        says: 'this entry asks nothing like that of the program',
        remedy: 'Look at the entry of the profile as it stands now.',
      })
    }
    return this.talking(portId, family, linkId, (talk, clock) => doEntryAct(talk, clock, way))
  }

  /** What the person's hands did to the stand-in at this port: its supply off and on, or all that its entry wants. */
  hands(portId: string, did: 'off' | 'entry'): void {
    this.refuseHeld(portId)
    const unit = this.ports.standIn(portId)
    if (did === 'off') unit?.powerCycle()
    else unit?.enter?.()
  }

  /**
   * Refuses to open a port while what its link rests on does not stand: order of power, wiring, isolation.
   * @param open the job whose bench is judged; without one nothing is said, and `looked` counts alone.
   * @param looked rules that a person answers for at this very reading.
   * @param scanning true where the bus is only counted, which is what isolation waits for.
   * @returns what was judged.
   * @throws Problem `link-shut` that names the first thing in the way.
   */
  async refuseShutLink(
    portId: string,
    family: Family,
    open: OpenJob | null,
    { looked = [], scanning = false }: { looked?: readonly string[]; scanning?: boolean } = {},
  ): Promise<Gate[]> {
    if (open) refusePractice(portId, open.unit.id)
    const entry = await this.ports.find(portId, this.heldBy)
    const gates = gatesBeforeLink({
      family,
      said: open?.bench ?? {},
      adapters: open?.adapters ?? [],
      house: open?.house ?? (await getHouse(this.db)),
      now: Date.now(),
      standIn: entry.kind === 'stand-in',
    }).filter(({ id }) => !scanning || id !== 'isolation')
    const shut = open
      ? shutLinkOf(gates, open.job.releases)
      : shutLink(gates).filter(({ rule }) => !looked.includes(rule))
    const [first] = shut
    // What hangs on a stand-in's bus is what nobody took off.
    if (!first && family.isolation && !scanning)
      this.ports
        .standIn(portId)
        ?.unplug?.(
          open
            ? (isolationNow(open.bench)?.unplugged ?? [])
            : looked.includes('neighbours-off')
              ? family.isolation.neighbours.map(({ id }) => id)
              : [],
        )
    if (!first) return gates
    throw new Problem({
      kind: 'link-shut',
      thing: family.name,
      place: { at: first.rule },
      says: `the link is not opened yet: ${first.says.replace(/\.$/, '')}`,
      found: first.because,
      remedy: [
        first.remedy ?? 'Put it right, and say so.',
        ...(shut.length > 1 ? [`${shut.length - 1} more stand in the way.`] : []),
      ].join(' '),
    })
  }

  /** Reads what a unit says of itself now. */
  async read(portId: string, family: Family, linkId?: string): Promise<Snapshot> {
    // The page bears the time of the person's clock, whatever clock the line runs in.
    return this.talking(
      portId,
      family,
      linkId,
      async (talk) => (await readUnit(talk, family, () => Date.now())).snapshot,
    )
  }

  /** Opens a family's link over a port for one reading. */
  private async talking<T>(
    portId: string,
    family: Family,
    linkId: string | undefined,
    act: (talk: Talk, clock: Clock) => Promise<T>,
  ): Promise<T> {
    const entry = await this.ports.find(portId, this.heldBy)
    return this.reading(portId, async () => {
      const clock = this.clockFor(entry.kind === 'stand-in' ? 0 : 1)
      const unit = this.ports.standIn(portId)
      const link = linkOf(family, unit?.familyId === family.id ? unit.linkId : linkId)
      const bare = this.ports.connect(portId, clock).channel
      const channel = this.traced(portId, bare, clock, speechOf(link))
      const talk = talkOver(channel, clock, family, link, componentOf(family))
      await talk.open()
      try {
        return await act(talk, clock)
      } finally {
        await talk.close()
        if (unit) await keepStandIn(this.db, unit)
      }
    })
  }

  /** Readings of one port take turns; a run that holds the port refuses them. */
  private async reading<T>(portId: string, act: () => Promise<T>): Promise<T> {
    this.refuseHeld(portId)
    const before = this.readings.get(portId) ?? Promise.resolve()
    const turn = before
      .catch(() => {})
      .then(() => {
        this.refuseHeld(portId)
        return act()
      })
    this.readings.set(portId, turn)
    try {
      return await turn
    } finally {
      if (this.readings.get(portId) === turn) this.readings.delete(portId)
    }
  }

  /** @throws Problem `run-under-way`: one run a job and one a unit, over whatever port. */
  private refuseBusy(what: 'job' | 'unit', id: string): void {
    const busy = this.busy.get(busyKey(what, id))
    if (!busy) return
    throw new Problem({
      kind: 'run-under-way',
      thing: id,
      says: what === 'job' ? 'a run of this job is under way' : 'this unit is being worked on by another run',
      found: busy.run ?? busy.job,
      remedy: 'Open that run and bring it to its end first.',
    })
  }

  /** Whether a run works on the unit. */
  busyWith(unitId: string): boolean {
    return this.busy.has(busyKey('unit', unitId))
  }

  /** A stand-in that was made for practice, at once a port like any other. */
  putStandIn(unit: StandIn): void {
    this.ports.putStandIn(unit)
  }

  private freeBusy(mark: Busy): void {
    for (const [key, busy] of this.busy) if (busy === mark) this.busy.delete(key)
  }

  private refuseHeld(portId: string): void {
    const holder = this.held.get(portId)
    if (holder === undefined) return
    throw new Problem({
      kind: 'port-held',
      thing: portId,
      says: 'the port is in use',
      found: holder,
      remedy: 'One run a port: wait until it has ended, or use another adapter.',
    })
  }

  /** The clock of a port: the person's own for a real one; for a stand-in a virtual one, paced or not. */
  private clockFor(speed: Speed, at = Date.now(), standIn = speed !== 1): Clock {
    if (!standIn) return realClock(hostTime)
    // Paced, not scaled: at 60 times the speed of life a time-out of a second is 17 ms, which a busy laptop overruns.
    return speed === 0 ? virtualClock(nextTurn, at) : virtualClock(nextTurn, at, paceOf(speed))
  }

  /**
   * Starts a job's run and returns as soon as its first event is on disk.
   * @param at when an unpaced run is to have happened, ms since 1970; now where nothing is said.
   * @throws Problem `run-under-way`, `port-held`, `gate-not-go`, `job-closed`, `ending`, and what keeps the record from the disk.
   */
  async start(form: StartForm, at?: number): Promise<string> {
    if (this.ending) {
      throw new Problem({
        kind: 'ending',
        says: 'the program is about to end',
        remedy: 'Start it again, then start the run.',
      })
    }
    // From here on the job is this run's, and with it its wake: nothing may wait before it is marked.
    const mark: Busy = { job: form.jobId }
    this.refuseBusy('job', form.jobId)
    this.busy.set(busyKey('job', form.jobId), mark)
    try {
      const open = await openJob(this.db, this.shelf, form.jobId)
      this.refuseBusy('unit', open.unit.id)
      this.busy.set(busyKey('unit', open.unit.id), mark)
      return await this.startOpen(open, form, mark, at)
    } catch (error) {
      this.freeBusy(mark)
      throw error
    }
  }

  /** Starts a run of a job that no other run works on. */
  private async startOpen(open: OpenJob, form: StartForm, mark: Busy, at?: number): Promise<string> {
    refuseClosed(open.job)
    if (form.port === undefined && !open.byHand) throw noPort(form.jobId)
    // A chip in its socket needs no port; the unit itself is what one run holds.
    const portId = open.byHand ? `by-hand:${open.unit.id}` : form.port!
    if (!open.byHand) refusePractice(portId, open.unit.id)
    const entry = open.byHand ? null : await this.ports.find(portId, this.heldBy)
    this.refuseHeld(portId)
    const gates = await this.gatesOf(open, entry ? portId : null, form.supplyVolts ?? null)
    const sent = form.releases ?? []
    const kept = standing(
      open.job.releases,
      gates.flatMap(({ findings }) => findings),
    )
    const releases = [
      ...kept
        .filter(({ rule }) => !sent.some((each) => each.rule === rule))
        .map(({ rule, name, reason }) => ({ rule, name, reason })),
      ...sent,
    ]
    refuseShut(gates, releases)
    const { job, unit, family, component } = open
    if (!open.open && job.task === 'write') throw noWrite(open)
    const also = open.pieces.slice(1).flatMap((piece) => (piece.open ? [{ ...piece, open: piece.open }] : []))
    const link = open.byHand ? null : linkOf(family, open.link?.id)
    const standIn = entry?.kind === 'stand-in'
    const speed: Speed = standIn ? (form.speed ?? 1) : 1
    // A second try is a new leg of the same run: of the same image, for the same component.
    const { before } = open
    const chip = job.task === 'chip' ? open.bench.chip : undefined
    const steps = bareSteps(open.plan)
    const goesOnAt = before ? goesOnFrom(before.state) : null

    // From here on the port is ours: nothing below may wait before it is marked.
    this.refuseHeld(portId)
    const id = before?.id ?? newId('run')
    this.held.set(portId, id)
    mark.run = id
    try {
      await this.readings.get(portId)?.catch(() => {})
      if (before) {
        // What the last leg could not write comes before the next one.
        await payDebts(this.db, id)
        refuseAltered(id, (await getRun(this.db, id)).brokenAt)
      }
      const wake = before ? await readWake(this.db, id) : []
      const snapshots = (await getUnit(this.db, unit.id)).snapshots.toReversed()
      // Unpaced, a stand-in's time runs ahead of the wall's: what is read now must not be older than what was read before.
      const newest = Math.max(0, ...snapshots.map((page) => page.at + 1))
      const clock = this.clockFor(speed, at ?? Math.max(Date.now(), newest), standIn)
      const run = this.activate(id, { jobId: job.id, unitId: unit.id }, portId, speed, clock, wake)
      // What came back behind an earlier run is off again for this one.
      if (open.bench.back?.length) await sayBench(this.db, job.id, { back: [] })
      // What was unplugged on the bench is off the stand-in's bus.
      this.ports.standIn(portId)?.unplug?.(isolationNow(open.bench)?.unplugged ?? [])
      const joined = link ? this.ports.connect(portId, clock) : null
      const meter = joined?.meter
      const channel = joined && link ? this.traced(portId, joined.channel, clock, speechOf(link)) : null
      const lastPage = knownPage(snapshots)
      const from = lineOf(lastPage, `version.${component.id}`)
      const alreadyWritten =
        before !== null && !['as-it-was', 'in-bootloader'].includes(conditionOf(before.state))
      const leg = {
        port: { id: portId, name: entry?.name ?? 'by hand', standIn },
        speed,
        ...(link ? { link: { id: link.id, name: link.name } } : {}),
        ...benchOfRun(open),
        floorVolts: family.power.floorVolts,
        releases,
        plan: steps,
        bench: open.bench,
        gates: gates.map(({ id: gate, name, verdict, findings }) => ({ id: gate, name, verdict, findings })),
      }
      if (before) {
        await run.wake.record({
          type: 'leg.opened',
          leg: before.state.leg + 1,
          ...(goesOnAt !== null && link && linkResumes(link) ? { goesOnAt } : {}),
          ...leg,
        })
      } else
        await run.wake.record({
          type: 'run.opened',
          runId: id,
          job: { id: job.id, reason: job.reason },
          unit: { id: unit.id, name: unit.name, place: unit.place, serial: unit.serial },
          family: { id: family.id, revision: family.revision, name: family.name },
          component: { id: component.id, name: component.name },
          ...(job.task === 'write' ? {} : { task: job.task }),
          ...(chip ? { chip } : {}),
          ...(open.open ? { image: imageOfRun(component, open.open) } : {}),
          ...(also.length > 0
            ? {
                also: also.map((piece) => ({
                  component: { id: piece.component.id, name: piece.component.name },
                  image: imageOfRun(piece.component, piece.open),
                })),
              }
            : {}),
          ...(Object.keys(unit.answers).length > 0 ? { answers: unit.answers } : {}),
          ...(from === undefined ? {} : { from }),
          ...leg,
        })
      await meter?.open(meterSettings)
      const hold = 'hold' in clock ? (clock as VirtualClock).hold : <T>(pending: Promise<T>) => pending
      run.finished = carryOut(
        steps,
        {
          family,
          component,
          link,
          unit: { id: unit.id, serial: unit.serial, name: unit.name },
          lastPage,
          goesOnAt: link && linkResumes(link) ? goesOnAt : null,
          alreadyWritten,
          powerStood: powerStood(before?.state ?? null),
          firstPage: alreadyWritten ? (before?.state.before ?? null) : null,
          image: open.open && errandImage(open.open),
          also: also.map((piece) => ({
            component: piece.component,
            image: errandImage(piece.open),
            firstHere: piece.known.first,
            wrote: wroteOf(unit.facts, piece.component.id),
          })),
          ...(before ? { goesOnPiece: goesOnWith(before.state) } : {}),
          task: job.task,
          ...(chip ? { chip } : {}),
          firstHere: open.known.first,
          wrote: wroteOf(unit.facts, component.id),
          use: unit.answers,
          releases,
        },
        {
          channel,
          ...(meter ? { meter: scpiMeter(meter) } : {}),
          clock,
          wake: run.wake,
          answers: { wait: (prompt) => hold(this.answerTo(run, prompt)) },
          keepBackup: (backup) => hold(this.keepBackup(unit, family, backup)),
          abandon: run.abandon,
          halt: run.halt,
        },
      )
        .catch((error: unknown) =>
          process.stderr.write(`Run ${id} could not be recorded: ${String(error)}\n`),
        )
        .then(() => this.finish(run, meter, mark))
      return id
    } catch (error) {
      this.held.delete(portId)
      this.active.delete(id)
      throw error
    }
  }

  /** PRACTICE G1: on the shelf by its digest, under its name; one that equals another unit's is told. */
  private async keepBackup(
    unit: { id: string; name: string },
    family: Family,
    { name, address, bytes }: Backup,
  ): Promise<{ imageId: string; findings: Finding[] }> {
    const erased = componentOf(family).memory.erasedByte
    let end = bytes.length
    while (end > 1 && bytes[end - 1] === erased) end--
    const text = writeIntelHex([{ address, bytes: bytes.subarray(0, end) }])
    const origin = `read out of ${unit.name}`
    const { images } = await this.shelf.add(`${name}.hex`, asciiBytes(text), { origin })
    const { id, origins } = images[0]!
    const others = origins.flatMap(({ from }) =>
      from?.startsWith('read out of ') && from !== origin ? [from] : [],
    )
    const findings: Finding[] =
      family.backup?.firmware === 'own' && others.length > 0
        ? [
            {
              rule: 'backup-own',
              level: 'note',
              says: 'The original equals that of another unit.',
              because: `${others[0]!.replace('read out of ', '')} gave the same bytes; each is said to have its own.`,
              remedy: 'Look whether the right unit is on the cable.',
            },
          ]
        : []
    return { imageId: id, findings }
  }

  private activate(
    id: string,
    of: { jobId: string; unitId: string },
    portId: string,
    speed: Speed,
    clock: Clock,
    before: readonly WakeEvent[],
  ): ActiveRun {
    const hold = 'hold' in clock ? (clock as VirtualClock).hold : <T>(pending: Promise<T>) => pending
    const tell = (event: WakeEvent) => {
      run.last = event
      run.state = foldEvent(run.state, event)
      for (const listener of run.listeners) listener(event)
      this.keepNowAndThen(run, event)
    }
    // The trouble in words: it stands in the record as the reason.
    const told = (pending: Promise<void>) =>
      pending.catch((error: unknown) => {
        throw databaseTrouble(error) ?? error
      })
    const journal: Journal = {
      append: (event) =>
        hold(
          told(
            event.seq === 1
              ? openRun(this.db, { id, ...of, program: this.program }, event)
              : appendEvent(this.db, id, event),
          ),
        ).then(() => tell(event)),
      last: () =>
        hold(
          (async () => {
            await payDebts(this.db, id)
            return lastEvent(this.db, id)
          })(),
        ),
      owe: (body, at) => {
        debtsOf(this.db).add(id, { body, at })
        tell(sealEvent(body, at, run.last))
        this.payLater()
      },
    }
    const run: ActiveRun = {
      id,
      portId,
      speed,
      state: foldWake(before),
      last: before.at(-1),
      wake: wakeWriter(journal, clock, before.at(-1)),
      answers: new Map(),
      abandon: { raised: false },
      halt: { raised: this.ending },
      listeners: new Set(),
      finished: Promise.resolve(),
      onWaiting: () => {},
    }
    this.active.set(id, run)
    return run
  }

  private keptAt = new Map<string, number>()

  private keepNowAndThen(run: ActiveRun, event: WakeEvent): void {
    const unit = this.ports.standIn(run.portId)
    if (!unit || (event.body.type !== 'progress' && event.body.type !== 'step.started')) return
    const now = Date.now()
    if (event.body.type === 'progress' && now - (this.keptAt.get(run.id) ?? 0) < keepEveryMs) return
    this.keptAt.set(run.id, now)
    void keepStandIn(this.db, unit).catch(() => {})
  }

  private async finish(
    run: ActiveRun,
    meter: { close(): Promise<void> } | undefined,
    mark: Busy,
  ): Promise<void> {
    await meter?.close().catch(() => {})
    const unit = this.ports.standIn(run.portId)
    if (unit) await keepStandIn(this.db, unit).catch(() => {})
    this.held.delete(run.portId)
    this.freeBusy(mark)
    this.active.delete(run.id)
    this.keptAt.delete(run.id)
  }

  private paying: (() => void) | undefined

  /** Tries again and again to write what is owed, until it is on disk. */
  private payLater(): void {
    this.paying ??= hostTime.after(payEveryMs, () => {
      this.paying = undefined
      void this.pay().then((paid) => {
        if (!paid) this.payLater()
      })
    })
  }

  /** Writes what could not be written before. @returns whether nothing is owed any more. */
  private async pay(): Promise<boolean> {
    for (const id of debtsOf(this.db).runs()) await payDebts(this.db, id).catch(() => {})
    return debtsOf(this.db).runs().length === 0
  }

  private answerTo(run: ActiveRun, prompt: string): Promise<string> {
    return new Promise((resolve) => {
      run.onWaiting()
      run.answers.set(prompt, (answer) => {
        run.answers.delete(prompt)
        // The stand-in's switch and keys follow the person's word.
        const unit = this.ports.standIn(run.portId)
        if (prompt === 'power-cycle') unit?.powerCycle()
        if (prompt === 'enter-by-hand') unit?.enter?.()
        resolve(answer)
      })
    })
  }

  /** @throws Problem `prompt-not-open` when nothing is asked, or another thing, or that is no answer to it. */
  answer(runId: string, prompt: string, answer: string): void {
    const run = this.active.get(runId)
    const asked = run?.state?.prompt
    const take = run?.answers.get(prompt)
    if (!take || asked?.prompt !== prompt || !asked.answers.some(({ id }) => id === answer)) {
      throw new Problem({
        kind: 'prompt-not-open',
        thing: runId,
        place: { at: prompt },
        says: asked ? 'another question is open' : 'no question is open',
        ...(asked ? { expected: `${asked.prompt}: ${asked.answers.map(({ id }) => id).join(' or ')}` } : {}),
        found: `${prompt}: ${answer}`,
        remedy: 'Look at the run as it stands now and answer what it asks.',
      })
    }
    take(answer)
  }

  /**
   * Abandons a run in two steps: the first says what will be left behind and gives a token, the second needs it.
   * @throws Problem `run-over`; `input` for a wrong token.
   */
  async abandon(
    runId: string,
    token?: string,
  ): Promise<{ token: string; leaves: string; next: string } | null> {
    const run = this.active.get(runId)
    if (!run?.state || run.state.outcome !== 'running') {
      throw new Problem({
        kind: 'run-over',
        thing: runId,
        says: 'this run is not under way',
        remedy: 'There is nothing to abandon.',
      })
    }
    const left = guidance[conditionOf(run.state)]
    const open = run.state.open === null ? undefined : run.state.steps[run.state.open]
    if (open?.kind !== 'write') {
      throw new Problem({
        kind: 'run-over',
        thing: runId,
        says: `the run is at "${open?.says ?? 'its start'}" and cannot be abandoned there`,
        remedy: 'It ends by itself in a moment, or waits for your answer.',
      })
    }
    if (token === undefined) {
      run.abandon.token = randomUUID()
      return { token: run.abandon.token, leaves: left.says, next: left.next }
    }
    if (token !== run.abandon.token) {
      throw new Problem({
        kind: 'input',
        place: { at: 'token' },
        says: 'this is not the second step of an abandon that was begun',
        remedy: 'Begin it again and read what will be left behind.',
      })
    }
    await run.wake.record({ type: 'abandon.asked', step: run.state.open! })
    run.abandon.raised = true
    return null
  }

  /** Calls `listener` for each event from now on; call the result to end that. Undefined when the run is over. */
  listen(runId: string, listener: (event: WakeEvent) => void): (() => void) | undefined {
    const run = this.active.get(runId)
    if (!run) return undefined
    run.listeners.add(listener)
    return () => run.listeners.delete(listener)
  }

  /** The runs under way, for the band on top. */
  running(): { id: string; state: RunState }[] {
    return [...this.active.values()].flatMap(({ id, state }) => (state ? [{ id, state }] : []))
  }

  /** Resolves when a run is over. */
  async over(runId: string): Promise<void> {
    await this.active.get(runId)?.finished
  }

  /** Takes no new run and waits until each has reached a safe point; a run that waits for a person is cut there. */
  async drain(): Promise<void> {
    this.ending = true
    await Promise.all(
      [...this.active.values()].map((run) => {
        run.halt.raised = true
        if (run.answers.size > 0) return undefined
        return Promise.race([run.finished, new Promise<void>((resolve) => (run.onWaiting = resolve))])
      }),
    )
    this.paying?.()
    // The last chance; what the disk does not take now is called cut at the next start.
    await this.pay()
  }
}

/** An act of the program within an entry. */
export interface EntryActAsked {
  way: string
  act: string
}

async function doEntryAct(
  talk: Talk,
  clock: Clock,
  way: Family['entry'][number],
): Promise<{ heard?: string }> {
  if (way.kind === 'command') {
    if (!talk.enter) {
      throw new Problem({
        kind: 'no-entry',
        thing: way.name,
        says: 'over this link no command reaches the running firmware',
        remedy: 'Take another way into the bootloader, or the link that the command goes over.',
      })
    }
    await talk.enter(way.send)
    // The unit has left its firmware when it has had its time to.
    await clock.sleep(way.settleMs)
    return {}
  }
  // A loader that is started first only asks and waits: a silence is what it is to hear until the unit comes.
  if (way.script?.kind === 'loader-first' || way.script?.kind === 'loader-then-off') {
    try {
      const { text } = await talk.hears()
      return text ? { heard: text } : {}
    } catch (error) {
      // Noise is no loader yet either; a port that is gone is another matter.
      if (!isProblem(error) || error.facts.kind.startsWith('port-')) throw error
      return { heard: error.facts.says }
    }
  }
  await talk.loader.attach()
  return {}
}

function noPort(jobId: string): Problem {
  return new Problem({
    kind: 'input',
    thing: jobId,
    place: { at: 'port' },
    says: 'no port is chosen',
    remedy: 'Choose the port that the unit or its adapter is plugged into.',
  })
}

/** @throws Problem `wake-altered`: on a record that was changed nothing more is written. */
function refuseAltered(id: string, at: number | null): void {
  if (at === null) return
  throw new Problem({
    kind: 'wake-altered',
    thing: id,
    place: { at: `event ${at}` },
    says: 'the record of this run was altered on disk',
    expected: 'an unbroken chain of events',
    remedy: 'Keep the file as it is and open a new job for the unit; its record begins anew.',
  })
}

/** @throws Problem `gate-not-go` that names the first gate which is not open. */
function refuseShut(gates: readonly Gate[], releases: readonly Release[]): void {
  for (const gate of gates) {
    const verdict = verdictAfter(gate.findings, releases)
    if (verdict === 'go' || verdict === 'note') continue
    const finding = gate.findings.find(({ level, rule }) =>
      verdict === 'hold'
        ? level === 'hold' && !releases.some((release) => release.rule === rule)
        : level === verdict,
    )
    throw new Problem({
      kind: 'gate-not-go',
      thing: gate.name,
      ...(finding ? { place: { at: finding.rule } } : {}),
      says: (finding?.says ?? gate.unjudged?.says ?? 'this gate has nothing to judge by').replace(/\.$/, ''),
      ...(finding ? { found: finding.because } : {}),
      remedy:
        verdict === 'hold'
          ? `${finding?.remedy ?? ''} Or release the hold with your name and a reason.`.trim()
          : (finding?.remedy ?? gate.unjudged?.remedy ?? 'Look at what the profile says about it.'),
    })
  }
}

/** @throws Problem `no-link` when this program does not drive that link, or none of the family's. */
function linkOf(family: Family, linkId?: string): DrivenLink {
  const link = drivenLink(family, linkId)
  if (link) return link
  throw new Problem({
    kind: 'no-link',
    thing: family.name,
    says: 'this version does not talk to this equipment over this link',
    found:
      family.links.find(({ id }) => id === linkId)?.name ?? family.links.map(({ name }) => name).join(', '),
    remedy: 'Type or paste its page instead.',
  })
}

function wrongChannel(portId: string): Problem {
  return new Problem({
    kind: 'wrong-channel',
    thing: portId,
    says: 'this is no serial port',
    remedy: 'Choose the port that the adapter of the bus is plugged into.',
  })
}

/** What is known of a component by digest, with the version that it goes with. */
function wroteOf({ versions, digests }: UnitFacts, componentId: string) {
  const [version, sha256] = [versions[componentId], digests?.[componentId]]
  return version !== undefined && sha256 !== undefined ? { version, sha256 } : null
}

/** An image as a run's record names it, with the bytes that go into a component. */
const imageOfRun = (component: Component, { image, memory }: OpenImage) => ({
  id: image.id,
  name: image.name,
  sha256: image.sha256,
  bytes: loadsOf(component, memory).reduce((sum, load) => sum + load.bytes.length, 0),
  ...said(image.identity, 'version', 'variant', 'options', 'release'),
})

const errandImage = ({ image, memory }: OpenImage) => ({
  name: image.name,
  memory,
  identity: image.identity,
  claim: image.claim,
  contentSha256: image.contentSha256,
})

/** Those members of an identity that are known. */
function said<Name extends 'version' | 'variant' | 'options' | 'release'>(
  identity: ImageIdentity | null,
  ...names: Name[]
): Partial<Record<Name, string>> {
  return Object.fromEntries(
    names.flatMap((name) => (identity?.[name] === undefined ? [] : [[name, identity[name]]])),
  ) as Partial<Record<Name, string>>
}

/** Every gate is open and yet nothing is to be written: it says why, and never that no image is chosen when one is. */
function noWrite({ job, image, fit }: OpenJob): Problem {
  if (!image) {
    return new Problem({
      kind: 'gate-not-go',
      thing: job.id,
      says: 'no image is chosen',
      remedy: 'Choose an image for the job first.',
    })
  }
  const path = fit?.findings.find(({ rule }) => rule === 'path')
  return new Problem({
    kind: 'gate-not-go',
    thing: image.name,
    says: (path?.says ?? 'nothing is left to be written').replace(/\.$/, ''),
    ...(path ? { found: path.because } : {}),
    remedy: path?.remedy ?? 'Close the job, or choose another image.',
  })
}

/** What of the bench a run's record keeps: the adapter, and what was shed for it. */
function benchOfRun({ bench, adapters, family }: OpenJob) {
  const adapter = adapters.find(({ id }) => id === bench.wiring?.adapterId)
  const shed = (family.power.supply?.loads ?? []).filter(({ id }) => bench.shed?.includes(id))
  return {
    ...(adapter
      ? {
          adapter: {
            id: adapter.id,
            name: adapter.name,
            standing: adapter.standing,
            ...(adapter.serial ? { serial: adapter.serial } : {}),
          },
        }
      : {}),
    ...(shed.length ? { shed: shed.map((load) => load.shed) } : {}),
  }
}
