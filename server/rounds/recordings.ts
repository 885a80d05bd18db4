import { componentOf } from '@bench-wake/core/family'
import { isProblem, Problem, type ProblemFacts } from '@bench-wake/core/kernel'
import { openLink, speechOf, type LinkDriver } from '@bench-wake/core/link'
import {
  logCsv,
  recordChannels,
  unreadChannels,
  type AgreedChannel,
  type ChannelSource,
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

/** What holds a port that is recorded from. */
const holder = 'a log being recorded'
/** A log goes on a little longer than its kind asks for: the last second is never the one that counts. */
const spare = { share: 1.1, seconds: 3 }

export interface RecordingForm {
  caseId: string
  portId: string
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
   * @throws Problem `not-written`, `no-source` with the channels that the link cannot give, `port-held`, `no-live-data`.
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
    const unread = unreadChannels(channels)
    if (unread.length > 0)
      throw new Problem({
        kind: 'no-source',
        thing: state.agreement.title,
        says: `nobody said how the link gives ${unread.join(', ')}`,
        remedy: 'Write the data identifiers beside the channels, or import a log of another logger.',
      })
    const family = await getFamily(this.db, unit.familyId)
    const entry = await this.room.ports.find(portId, this.room.holds.by)
    const standIn = this.room.ports.standIn(portId)
    const link = linkOf(family, standIn?.familyId === family.id ? standIn.linkId : undefined)
    this.room.holds.refuseHeld(portId)
    this.room.holds.hold(portId, holder)
    const clock = portClock(entry.kind === 'stand-in' ? form.speed : 1)
    let driver: LinkDriver | undefined
    try {
      await this.room.holds.quiet(portId)
      form.hands?.()
      const bare = this.room.ports.connect(portId, clock).channel
      const channel = this.room.traces.traced(portId, bare, clock, speechOf(link))
      driver = openLink(channel, clock, family, link, componentOf(family))
      if (!driver.readData)
        throw new Problem({
          kind: 'no-live-data',
          thing: link.name,
          says: 'this link gives no channels while the unit works',
          remedy: 'Log with the unit’s own logger, and import the file.',
        })
      await driver.open()
    } catch (error) {
      await driver?.close().catch(() => {})
      form.after?.()
      this.room.holds.free(portId)
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
    const ask = (identifier: number) => driver.readData!(identifier)
    const work = async () => {
      try {
        const log = await recordChannels(ask, clock, {
          channels: channels as (AgreedChannel & { read: ChannelSource })[],
          seconds: recording.seconds,
          stopped: () => stopped,
          onRow: (rows, second, row) => {
            recording.rows = rows
            recording.second = second
            recording.figures = Object.fromEntries(
              channels.map(({ name }, column) => [name, Number.isNaN(row[column]!) ? null : row[column]!]),
            )
          },
        })
        recording.logId = await this.#keep(form, state.rounds.length, logCsv(log))
      } catch (error) {
        recording.problem = factsOf(error)
      } finally {
        await driver.close().catch(() => {})
        form.after?.()
        this.room.holds.free(portId)
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
