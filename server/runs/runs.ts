import { Problem, type Release } from '@bench-wake/core/kernel'
import { standing } from '@bench-wake/core/job'
import { scpiMeter, speechOf, type Port } from '@bench-wake/core/link'
import type { LaptopSay, LaptopTask, Gate } from '@bench-wake/core/ready'
import { bareSteps, carryOut, timeLeft, type RunState, type WakeEvent } from '@bench-wake/core/run'
import { followWake } from '@bench-wake/standins'
import type { Database } from '../db/open'
import { newId } from '../new-id'
import { linkOf } from '../ports/driven-link'
import type { JoinedMeter } from '../ports/meter-room'
import { portClock, type Speed } from '../ports/port-clock'
import type { PortRoom } from '../ports/port-room'
import { refusePractice } from '../ports/practice-port'
import { meterSettings } from '../ports/readings'
import { refuseClosed, sayBench } from '../store/job-rows'
import { openJob, type OpenJob } from '../store/jobs'
import { getRun, payDebts, readWake } from '../store/runs'
import type { Shelf } from '../store/shelf'
import { keepStandIn } from '../store/stand-ins'
import { getUnit } from '../store/units'
import { activeRun, freezeOf, type ActiveRun } from './active-run'
import { BusyWith, type Busy } from './busy'
import { runRequestOf, openingOf } from './run-request'
import { keepBackup } from './keep-backup'
import { OwedEvents } from './owed-events'
import { abandonRun, answerRun, answerTo, typedWith } from './prompts'
import { Readiness } from './readiness'
import { noPort, noWrite, refuseAltered, refuseShut } from './refusals'

/** A stand-in's memory is kept this often while it is written, ms. */
const keepEveryMs = 1000
/** What a run is at that needs no port, before its unit. */
const byHandPrefix = 'by-hand:'

export interface StartForm {
  jobId: string
  /** Absent where the image goes in by hand. */
  port?: string
  speed?: Speed
  /** Volts a person measured, for ports without a meter. */
  supplyVolts?: number
  releases?: Release[]
  /** How the names of those who released holds came to be there; absent for a run that the program itself plays. */
  names?: 'typed' | 'signed-in'
}

/** The meter that a stand-in brings with it. */
async function openMeter(port: Port): Promise<JoinedMeter> {
  await port.open(meterSettings)
  return { meter: scpiMeter(port), close: () => port.close() }
}

/** Runs live here, in the server, so that a closed tab never hurts a write. One run a port. */
export class Runs {
  readonly readiness: Readiness
  private readonly active = new Map<string, ActiveRun>()
  private readonly busy = new BusyWith()
  private readonly owed: OwedEvents
  /** When a stand-in's memory was kept last, by run. */
  private readonly keptAt = new Map<string, number>()
  private ending = false

  constructor(
    private readonly db: Database,
    private readonly shelf: Shelf,
    private readonly room: PortRoom,
    /** This program among those that work on the same database. */
    private readonly program: string | null = null,
  ) {
    this.owed = new OwedEvents(db)
    const { ports, holds, readings } = room
    this.readiness = new Readiness(db, shelf, ports, holds, readings, (exceptJob) => this.underWay(exceptJob))
  }

  /** Whether a run works on the unit. */
  busyWith(unitId: string): boolean {
    return this.busy.has('unit', unitId)
  }

  /** Refuses to change what a run under way rests on. @throws Problem `run-under-way`. */
  refuseChange(jobId: string): void {
    this.busy.refuse('job', jobId)
  }

  /** Whether the laptop lasts for every run under way (PRACTICE D3). */
  laptop(): Promise<{ say: LaptopSay | null; gate: Gate }> {
    return this.readiness.laptop()
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
    this.busy.refuse('job', form.jobId)
    this.busy.mark('job', form.jobId, mark)
    try {
      const open = await openJob(this.db, this.shelf, form.jobId)
      this.busy.refuse('unit', open.unit.id)
      this.busy.mark('unit', open.unit.id, mark)
      return await this.startOpen(open, form, mark, at)
    } catch (error) {
      this.busy.free(mark)
      throw error
    }
  }

  /** Starts a run of a job that no other run works on. */
  private async startOpen(open: OpenJob, form: StartForm, mark: Busy, at?: number): Promise<string> {
    const { job, unit, family, before, byHand } = open
    const { ports, holds, traces } = this.room
    refuseClosed(job)
    if (form.port === undefined && !byHand) throw noPort(form.jobId)
    // A chip in its socket needs no port; the unit itself is what one run holds.
    const portId = byHand ? byHandPrefix + unit.id : form.port!
    if (!byHand) refusePractice(portId, unit.id)
    const entry = byHand ? null : await ports.find(portId, holds.by)
    holds.refuseHeld(portId)
    const gates = await this.readiness.gatesOf(open, entry ? portId : null, form.supplyVolts ?? null)
    const releases = releasesOf(open, gates, form.releases ?? [])
    refuseShut(gates, releases)
    if (!open.open && job.task === 'write') throw noWrite(open)
    const link = byHand ? null : linkOf(family, open.link?.id)
    const standIn = entry?.kind === 'stand-in'
    const speed: Speed = standIn ? (form.speed ?? 1) : 1

    // From here on the port is ours: nothing below may wait before it is marked.
    holds.refuseHeld(portId)
    const id = before?.id ?? newId('run')
    holds.hold(portId, id)
    mark.run = id
    let meter: JoinedMeter | null = null
    try {
      await holds.quiet(portId)
      if (before) {
        // What the last leg could not write comes before the next one.
        await payDebts(this.db, id)
        refuseAltered(id, (await getRun(this.db, id)).brokenAt)
      }
      const wake = before ? await readWake(this.db, id) : []
      const snapshots = (await getUnit(this.db, unit.id)).snapshots.toReversed()
      // Unpaced, a stand-in's time runs ahead of the wall's: what is read now must not be older than what was read before.
      const newest = Math.max(0, ...snapshots.map((page) => page.at + 1))
      const clock = portClock(speed, at ?? Math.max(Date.now(), newest), standIn)
      const of = { id, jobId: job.id, unitId: unit.id, portId, speed, clock, before: wake }
      const run = activeRun(this.db, this.owed, { ...of, program: this.program }, (active, event) =>
        this.follow(active, event),
      )
      run.halt.raised = this.ending
      this.active.set(id, run)
      // What came back after an earlier run is off again for this one.
      if (open.bench.back?.length) await sayBench(this.db, job.id, { back: [] })
      const joined = link ? ports.connect(portId, clock) : null
      meter = joined?.meter ? await openMeter(joined.meter) : null
      if (entry && !standIn) meter = await this.room.meter.join(id, portId, clock)
      const channel = joined && link ? traces.traced(portId, joined.channel, clock, speechOf(link)) : null
      const port = byHand
        ? {
            id: portId,
            // A card that was read back from the stand-in, for a job that a card is for.
            ...(open.medium && open.bench.card?.standIn && this.room.cards.of(unit.id)
              ? { name: `Stand-in, ${unit.name}`, standIn: true }
              : { name: 'by hand', standIn }),
          }
        : { id: portId, name: entry!.name, standIn }
      const leg = { runId: id, open, link, port, speed, gates, releases, snapshots, names: form.names }
      await run.wake.record(openingOf(leg))
      const freeze = freezeOf(clock)
      run.finished = carryOut(bareSteps(open.plan), runRequestOf(leg), {
        channel,
        ...(meter ? { meter: meter.meter } : {}),
        clock,
        wake: run.wake,
        answers: {
          wait: (prompt) => freeze(answerTo(run, prompt)),
          typed: (prompt) => typedWith(run, prompt),
        },
        keepBackup: (backup) => freeze(keepBackup(this.shelf, unit, family, backup)),
        abandon: run.abandon,
        halt: run.halt,
      })
        .catch((error: unknown) =>
          process.stderr.write(`Run ${id} could not be recorded: ${String(error)}\n`),
        )
        .then(() => this.finish(run, meter, mark))
      return id
    } catch (error) {
      await meter?.close().catch(() => {})
      holds.free(portId)
      this.active.delete(id)
      throw error
    }
  }

  /** The stand-in at a run's port does what the person's hands do; its memory is kept now and then. */
  private follow(run: ActiveRun, event: WakeEvent): void {
    const unit = this.room.ports.standIn(run.portId) ?? this.cardOf(run)
    if (!unit) return
    if ('follow' in unit) unit.follow(event)
    else followWake(unit, event)
    const { type } = event.body
    if (type !== 'progress' && type !== 'step.started') return
    const now = Date.now()
    if (type === 'progress' && now - (this.keptAt.get(run.id) ?? 0) < keepEveryMs) return
    this.keptAt.set(run.id, now)
    // What is not kept now is kept at the next step, or at the end.
    void keepStandIn(this.db, unit).catch(() => {})
  }

  /** The stand-in that a run by hand brings a card to. */
  private cardOf({ portId }: ActiveRun) {
    return portId.startsWith(byHandPrefix) ? this.room.cards.of(portId.slice(byHandPrefix.length)) : undefined
  }

  private async finish(run: ActiveRun, meter: JoinedMeter | null, mark: Busy): Promise<void> {
    // A port that was pulled is closed already.
    await meter?.close().catch(() => {})
    const unit = this.room.ports.standIn(run.portId) ?? this.cardOf(run)
    // A stand-in whose memory cannot be kept is as it was when it was kept last.
    if (unit) await keepStandIn(this.db, unit).catch(() => {})
    this.room.holds.free(run.portId)
    this.busy.free(mark)
    this.active.delete(run.id)
    this.keptAt.delete(run.id)
  }

  /** @throws Problem `prompt-not-open`. */
  answer(runId: string, prompt: string, answer: string, typed?: string): void {
    answerRun(this.active.get(runId), runId, prompt, answer, typed)
  }

  /** Abandons a run in two steps. @throws Problem `run-over`; `input` for a wrong token. */
  abandon(runId: string, token?: string): ReturnType<typeof abandonRun> {
    return abandonRun(this.active.get(runId), runId, token)
  }

  /** Calls `listener` for each event from now on; call the result to end that. Undefined when the run is over. */
  listen(runId: string, listener: (event: WakeEvent) => void): (() => void) | undefined {
    const run = this.active.get(runId)
    if (!run) return undefined
    run.listeners.add(listener)
    return () => run.listeners.delete(listener)
  }

  /** The runs under way, for the band on top; one that has told its end is none, though its port is still being let go. */
  running(): { id: string; state: RunState }[] {
    return [...this.active.values()].flatMap(({ id, state }) =>
      state?.outcome === 'running' ? [{ id, state }] : [],
    )
  }

  /** Whether a run still holds a port or keeps what it met. */
  get busyNow(): boolean {
    return this.active.size > 0
  }

  /** What is under way, with the time it still takes on the wall's clock. */
  private underWay(exceptJob?: string): LaptopTask[] {
    return [...this.active.values()].flatMap(({ state, speed }) =>
      state && state.outcome === 'running' && state.facts.job.id !== exceptJob
        ? [{ name: state.facts.unit.name, leftMs: speed === 0 ? 0 : timeLeft(state, state.at)! / speed }]
        : [],
    )
  }

  /** Resolves when a run is over. */
  async over(runId: string): Promise<void> {
    await this.active.get(runId)?.finished
  }

  /** Takes no new run and brings each to its next safe point. */
  halt(): void {
    this.ending = true
    for (const run of this.active.values()) run.halt.raised = true
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
    // What the disk does not take now is called cut at the next start.
    await this.owed.end()
  }
}

/** Releases that stand from before and those that were sent with the start; the newer word on a rule counts. */
function releasesOf(open: OpenJob, gates: readonly Gate[], sent: readonly Release[]): Release[] {
  const kept = standing(
    open.job.releases,
    gates.flatMap(({ findings }) => findings),
  )
  return [
    ...kept
      .filter(({ rule }) => !sent.some((each) => each.rule === rule))
      .map(({ rule, name, reason }) => ({ rule, name, reason })),
    ...sent,
  ]
}
