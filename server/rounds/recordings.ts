import { componentOf } from '@bench-wake/core/family'
import { isProblem, Problem, type ProblemFacts } from '@bench-wake/core/kernel'
import { openLink, speechOf, type DataStream, type LinkDriver } from '@bench-wake/core/link'
import {
  askedRows,
  BesideWatch,
  isBytes,
  isOwn,
  linkToRecord,
  logCsv,
  recordChannels,
  recordingOverLink,
  sentRows,
  type ReadChannel,
  type RowSource,
} from '@bench-wake/core/rounds'
import { rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Database } from '../db/open'
import { newId } from '../new-id'
import { linkOf } from '../ports/driven-link'
import { portClock, type Speed } from '../ports/port-clock'
import type { PortRoom } from '../ports/port-room'
import { problemDocument } from '../problem'
import { openCaseView } from '../store/case-deeds'
import { takeLog } from '../store/case-logs'
import { getFamily } from '../store/families'
import type { WorkerThread } from '../worker/worker-thread'
import { joinBeside, recordingHolds, type JoinedBeside } from './beside-device'
import { liveOf } from './live-link'

/** A log that is being recorded, or the last one that was. */
export interface RecordingState {
  logKind: string
  port: string
  rows: number
  /** Seconds since the first row, and when it ends by itself. */
  second: number
  seconds: number
  /** The last row, by channel; null where a channel did not answer. */
  figures: Record<string, number | null>
  running: boolean
  /** The log it became, once it is over. */
  logId: string | null
  problem: ProblemFacts | null
}

/** A log goes on a little longer than its kind asks for: the last second is never the one that counts. */
const spare = { share: 1.1, seconds: 3 }

export interface RecordingForm {
  caseId: string
  portId: string
  /** The port of the second device, where channels come from one. */
  besidePortId?: string | undefined
  logKind: string
  by: string
  speed: Speed
  /** The stand-in's hands for it; nothing at a real unit. */
  hands?: (() => void) | undefined
  /** What is done once the port is free again. */
  after?: (() => void) | undefined
}

/** Logs recorded from a unit's own link. One a case; a port that is recorded from is held. */
export class Recordings {
  readonly #states = new Map<string, RecordingState>()
  readonly #stops = new Map<string, () => void>()
  readonly #ends = new Map<string, Promise<void>>()

  constructor(
    private readonly db: Database,
    private readonly room: PortRoom,
    private readonly worker: WorkerThread,
    private readonly incoming: string,
  ) {}

  state(caseId: string): RecordingState | null {
    return this.#states.get(caseId) ?? null
  }

  /** Ends a recording; what was read becomes a log. */
  stop(caseId: string): void {
    this.#stops.get(caseId)?.()
  }

  /** Ends every recording and waits until each is a log. */
  async end(): Promise<void> {
    for (const stop of this.#stops.values()) stop()
    await Promise.all(this.#ends.values())
  }

  /** Resolves when the recording of a case is over and judged. */
  async over(caseId: string): Promise<void> {
    await this.#ends.get(caseId)
  }

  /**
   * Begins a recording.
   * @throws Problem `not-written`, `no-source` that says why the list cannot be recorded, `no-beside`, `port-held`.
   */
  async start(form: RecordingForm): Promise<RecordingState> {
    const { caseId, portId, logKind } = form
    const { unit, state } = await openCaseView(this.db, caseId)
    const { channels, kinds } = state.agreement
    const kind = kinds.find(({ id }) => id === logKind)
    if (!state.rounds.at(-1)?.written || !kind)
      throw new Problem({
        kind: 'not-written',
        thing: state.agreement.title,
        says: 'there is nothing to log now',
        remedy: 'Write and prove the image of this round first.',
      })
    const family = await getFamily(this.db, unit.familyId)
    const entry = await this.room.ports.find(portId, this.room.holds.by)
    const standIn = this.room.ports.standIn(portId)
    const chosen = linkToRecord(
      family,
      state.agreement,
      standIn?.familyId === family.id ? standIn.linkId : undefined,
    )
    const link = chosen?.link ?? linkOf(family)
    if (chosen?.fault) throw noSource(state.agreement.title, chosen.fault)
    const clock = portClock(entry.kind === 'stand-in' ? form.speed : 1)
    const read = channels as ReadChannel[]
    const own = read.filter((channel) => isOwn(channel.read))
    let beside: JoinedBeside | undefined
    let driver: LinkDriver | undefined
    let stream: DataStream | undefined
    let watch: BesideWatch | undefined
    let rows: RowSource
    const leave = async () => {
      await watch?.end()
      await stream?.end().catch(() => {})
      await driver?.close().catch(() => {})
      await beside?.close()
      form.after?.()
      this.room.holds.free(portId)
    }
    this.room.holds.refuseHeld(portId)
    this.room.holds.hold(portId, recordingHolds)
    try {
      await this.room.holds.quiet(portId)
      beside = await joinBeside(this.room, form, state.agreement, clock)
      form.hands?.()
      const bare = this.room.ports.connect(portId, clock).channel
      const channel = this.room.traces.traced(portId, bare, clock, speechOf(link))
      driver = openLink(channel, clock, family, link, componentOf(family))
      await driver.open()
      const sent = own.flatMap((each) => (isBytes(each.read) && each.read.rate ? [each.read] : []))
      stream =
        sent.length > 0
          ? await driver.sendData!(sent.map(({ identifier, rate }) => ({ identifier, rate: rate! })))
          : undefined
      rows = stream
        ? sentRows(stream, clock, own, recordingOverLink(link).periods!)
        : askedRows(liveOf(driver, family, clock), clock, own)
      if (beside) watch = new BesideWatch(beside.ask, clock)
    } catch (error) {
      await leave()
      throw error
    }
    const recording: RecordingState = {
      logKind,
      port: portId,
      rows: 0,
      second: 0,
      seconds: Math.ceil(kind.minSeconds * spare.share + spare.seconds),
      figures: {},
      running: true,
      logId: null,
      problem: null,
    }
    this.#states.set(caseId, recording)
    let stopped = false
    this.#stops.set(caseId, () => (stopped = true))
    const plan = {
      channels: read,
      seconds: recording.seconds,
      stopped: () => stopped,
      onRow: (count: number, second: number, row: readonly number[]) => {
        recording.rows = count
        recording.second = second
        recording.figures = Object.fromEntries(
          channels.map(({ name }, column) => [name, Number.isNaN(row[column]!) ? null : row[column]!]),
        )
      },
    }
    const work = async () => {
      try {
        const log = await recordChannels(rows, clock, plan, watch)
        recording.logId = await this.#keep(form, state.rounds.length, logCsv(log))
      } catch (error) {
        recording.problem = factsOf(error)
      } finally {
        await leave()
        recording.running = false
        this.#stops.delete(caseId)
      }
    }
    this.#ends.set(caseId, work())
    return recording
  }

  async #keep({ caseId, logKind, by }: RecordingForm, round: number, csv: string): Promise<string> {
    const path = join(this.incoming, newId('log'))
    try {
      await writeFile(path, csv)
      const time = new Date().toISOString().slice(0, 16).replace(/[T:]/g, '-')
      const name = `${logKind}-${round}-${time}.csv`
      return (await takeLog(this.db, this.worker, caseId, { path, name, logKind, by })).id
    } finally {
      await rm(path, { force: true })
    }
  }
}

function factsOf(error: unknown): ProblemFacts {
  if (isProblem(error)) return error.facts
  const { kind, says, remedy } = problemDocument(error)
  return { kind, says, remedy }
}

const noSource = (thing: string, says: string): Problem =>
  new Problem({
    kind: 'no-source',
    thing,
    says,
    remedy:
      'Put it right beside the channels, under "Change what was agreed"; or import a log of another logger.',
  })
