import * as v from 'valibot'
import { readingPlaces } from '../family'
import { canonicalJson, sha256Hex, type Clock } from '../kernel'
import { checkOutcomes, type Verification } from '../link'
import { BenchInputs } from '../ready'
import { stepKinds } from './step'
import { tasks } from './task'

/*
 * The wake: an append-only list of timed events, each written before the act it announces and chained to the one
 * before by its digest. Everything else about a run is a fold over it (fold.ts).
 */

const finding = v.object({
  rule: v.string(),
  level: v.picklist(['go', 'note', 'hold', 'stop']),
  says: v.string(),
  because: v.string(),
  remedy: v.exactOptional(v.string()),
  numbers: v.exactOptional(v.record(v.string(), v.number())),
})
const snapshot = v.object({
  at: v.number(),
  source: v.picklist(readingPlaces),
  lines: v.array(
    v.object({
      field: v.string(),
      label: v.string(),
      value: v.string(),
      source: v.exactOptional(v.picklist(readingPlaces)),
    }),
  ),
  inBootloader: v.exactOptional(v.literal(true)),
})
const problem = v.object({
  kind: v.string(),
  thing: v.exactOptional(v.string()),
  place: v.exactOptional(
    v.object({
      line: v.exactOptional(v.number()),
      offset: v.exactOptional(v.number()),
      at: v.exactOptional(v.string()),
    }),
  ),
  says: v.string(),
  expected: v.exactOptional(v.string()),
  found: v.exactOptional(v.string()),
  remedy: v.string(),
})
const compared = v.object({
  field: v.string(),
  label: v.string(),
  before: v.exactOptional(v.string()),
  after: v.exactOptional(v.string()),
  change: v.picklist(['must', 'must-not', 'may']),
  ok: v.nullable(v.boolean()),
})
const step = v.number()
/** What holding the image against the unit came to. Records of the older form say `how` and `ok` or `same` instead. */
const check = {
  outcome: v.exactOptional(v.picklist(checkOutcomes)),
  /** Which checksum it rests on. */
  by: v.exactOptional(v.string()),
  how: v.exactOptional(v.picklist(['read-back', 'checksum', 'version-only'])),
  ok: v.exactOptional(v.boolean()),
  same: v.exactOptional(v.boolean()),
  expected: v.string(),
  found: v.string(),
}
const plan = v.array(
  v.object({
    kind: v.picklist(stepKinds),
    piece: v.exactOptional(v.number()),
    says: v.string(),
    predictedMs: v.number(),
    tailMs: v.exactOptional(v.number()),
    personMs: v.number(),
    handsOff: v.boolean(),
  }),
)
const component = v.object({ id: v.string(), name: v.string() })
const image = v.object({
  id: v.string(),
  name: v.string(),
  sha256: v.string(),
  version: v.exactOptional(v.string()),
  /** How it was known what the image is, in a sentence. */
  known: v.exactOptional(v.string()),
  bytes: v.number(),
  /** Which form of the version it is, and what it was built with (PRACTICE B7, B9). */
  variant: v.exactOptional(v.string()),
  options: v.exactOptional(v.string()),
  release: v.exactOptional(v.string()),
})
/** How the names in it came to be there: typed by somebody, or of a person who was signed in. Absent in older records. */
export const namesFrom = ['typed', 'signed-in'] as const
const names = v.exactOptional(v.picklist(namesFrom))
const releases = v.array(v.object({ rule: v.string(), name: v.string(), reason: v.string() }))
/** What a leg of a run stands on: its port, what is joined and switched off for it, its plan. */
const leg = {
  port: v.object({ id: v.string(), name: v.string(), standIn: v.boolean() }),
  /** How many times faster than life a stand-in runs; 0 is unpaced. A real port runs at 1. */
  speed: v.number(),
  /** The link of the family that it went over; its times are learned apart from those of the others. */
  link: v.exactOptional(v.object({ id: v.string(), name: v.string() })),
  /** The cable or adapter it went through, so that failures can be traced to it (PRACTICE C2, J4). */
  adapter: v.exactOptional(
    v.object({
      id: v.string(),
      name: v.string(),
      serial: v.exactOptional(v.string()),
      standing: v.string(),
    }),
  ),
  /** What was switched off or pulled for it, as it has to come back. */
  shed: v.exactOptional(v.array(v.string())),
  floorVolts: v.number(),
  releases,
  names,
  plan,
  /** What was said of the bench: volts and what fed it, wiring, who was taken off, steps of power that were ticked. */
  bench: v.exactOptional(BenchInputs),
  /** What each gate said of it as the leg began (PRACTICE J4). */
  gates: v.exactOptional(
    v.array(v.object({ id: v.string(), name: v.string(), verdict: v.string(), findings: v.array(finding) })),
  ),
}
/** What became of one thing that is due after a write (PRACTICE I2, I3, J1, J2). */
export const postUpdateOutcomes = ['done', 'failed', 'not-needed'] as const

/** What happened, or is about to. */
export const WakeBody = v.variant('type', [
  v.object({
    type: v.literal('run.opened'),
    runId: v.string(),
    job: v.object({ id: v.string(), reason: v.string() }),
    unit: v.object({ id: v.string(), name: v.string(), place: v.string(), serial: v.string() }),
    family: v.object({ id: v.string(), revision: v.number(), name: v.string() }),
    component,
    /** What it is for; absent for a write. */
    task: v.exactOptional(v.picklist(tasks)),
    /** Absent where nothing is written or compared. */
    image: v.exactOptional(image),
    /** What is written after it in the same stay in the bootloader, where the family allows. */
    also: v.exactOptional(v.array(v.object({ component, image }))),
    /** The chip that went in as it came; there is no image of it. */
    chip: v.exactOptional(
      v.object({ label: v.string(), mark: v.string(), version: v.exactOptional(v.string()) }),
    ),
    /** How the unit is used, as it was answered. */
    answers: v.exactOptional(v.record(v.string(), v.string())),
    /** Version that the unit last said it had, before this run. */
    from: v.exactOptional(v.string()),
    ...leg,
  }),
  /** The same run tried again, after a leg that was cut, failed or was abandoned. */
  v.object({
    type: v.literal('leg.opened'),
    /** Counts from 2: the first leg is opened with the run. */
    leg: v.number(),
    /** Byte of the image it goes on from, where the protocol allows; absent when it begins at the first. */
    goesOnAt: v.exactOptional(v.number()),
    ...leg,
  }),
  v.object({ type: v.literal('step.started'), step }),
  v.object({
    type: v.literal('progress'),
    step,
    done: v.number(),
    total: v.number(),
    unit: v.picklist(['bytes', 'sectors']),
    retries: v.number(),
  }),
  v.object({
    type: v.literal('prompt.asked'),
    step,
    prompt: v.string(),
    says: v.string(),
    caution: v.exactOptional(v.string()),
    answers: v.array(v.object({ id: v.string(), says: v.string() })),
    /** What is typed with the answer `typed`; it goes to the unit and is not recorded. */
    takes: v.exactOptional(v.picklist(['text', 'hex'])),
  }),
  v.object({ type: v.literal('prompt.answered'), step, prompt: v.string(), answer: v.string() }),
  v.object({ type: v.literal('supply'), volts: v.nullable(v.number()) }),
  v.object({ type: v.literal('retry'), step, why: v.string() }),
  v.object({ type: v.literal('note'), step, says: v.string() }),
  v.object({
    type: v.literal('snapshot'),
    step,
    when: v.picklist(['before', 'after']),
    snapshot,
    /** Why the page counts for nothing: it is another unit's. */
    refused: v.exactOptional(v.string()),
  }),
  v.object({ type: v.literal('findings'), step, findings: v.array(finding) }),
  v.object({
    type: v.literal('verified'),
    step,
    ...check,
  }),
  /** What was read out of the unit before the first write, and where it is kept (PRACTICE G1, G5). */
  v.object({
    type: v.literal('backup'),
    step,
    /** Component it was read out of, where a run is about several. */
    component: v.exactOptional(v.string()),
    name: v.string(),
    address: v.number(),
    bytes: v.number(),
    /** Bits that the link reads at once; a programmer set otherwise swaps its bytes (PRACTICE G1). */
    widthBits: v.exactOptional(v.number()),
    sha256: v.string(),
    /** Times it was read; two equal readings are wanted. */
    reads: v.number(),
    /** The image on the shelf that it was kept as; absent when it was judged to be none. */
    imageId: v.exactOptional(v.string()),
    findings: v.array(finding),
  }),
  /** The image held against what is in the unit before anything is erased (PRACTICE H2). */
  v.object({
    type: v.literal('held-against'),
    step,
    ...check,
  }),
  /** The supply falls towards its floor in the middle of erase or write; null volts when that is over. */
  v.object({
    type: v.literal('supply-warning'),
    step,
    volts: v.nullable(v.number()),
    atLastByte: v.nullable(v.number()),
  }),
  /** Fault codes as the unit told them, before they were cleared and after (PRACTICE J1). */
  v.object({
    type: v.literal('faults'),
    step,
    before: v.string(),
    after: v.string(),
    /** True where they were only read, and left in the unit. */
    kept: v.exactOptional(v.literal(true)),
  }),
  /** A function test, a re-learn, settings brought back: done by a person after the proof. */
  v.object({
    type: v.literal('aftercare'),
    item: v.string(),
    does: v.string(),
    outcome: v.picklist(postUpdateOutcomes),
    by: v.string(),
    names,
    note: v.exactOptional(v.string()),
  }),
  v.object({ type: v.literal('compared'), step, rows: v.array(compared), findings: v.array(finding) }),
  v.object({ type: v.literal('step.done'), step }),
  v.object({ type: v.literal('failed'), step, problem }),
  v.object({ type: v.literal('abandon.asked'), step }),
  v.object({ type: v.literal('cut'), why: v.string() }),
  /** The last word on the job, and what came back by then (PRACTICE J3, J4). */
  v.object({
    type: v.literal('job.closed'),
    by: v.string(),
    names,
    note: v.string(),
    /** What it came to, in words. */
    cameTo: v.string(),
    /** What became of the reported symptoms. */
    symptoms: v.exactOptional(v.array(v.object({ says: v.string(), now: v.string() }))),
    /** What was put back, each in the words by which it was asked for. */
    back: v.array(v.string()),
  }),
  v.object({ type: v.literal('job.reopened'), by: v.string(), names, why: v.string() }),
  v.object({ type: v.literal('run.closed'), outcome: v.picklist(['proved', 'done', 'abandoned']) }),
])
export type WakeBody = v.InferOutput<typeof WakeBody>

/** What an event says a check came to; one of the older form is never called more than it was. */
export function checkOf({
  outcome,
  by,
  how,
  ok,
  same,
  expected,
  found,
}: Pick<BodyOf<'verified'>, keyof typeof check>): Verification {
  const figures = { ...(by === undefined ? {} : { by }), expected, found }
  if (outcome) return { outcome, ...figures }
  if (how === 'version-only' || how === undefined) return { outcome: 'version-only', ...figures }
  if (!(ok ?? same)) return { outcome: 'different', ...figures }
  return how === 'read-back'
    ? { outcome: 'equal-read-back', ...figures }
    : { outcome: 'equal-checksum', by: 'CRC-32', expected, found }
}

/** An event as it is kept. `hash` is SHA-256 over the canonical JSON of [seq, at, prev, body]. */
export const WakeEvent = v.object({
  /** Counts from 1 without a gap. */
  seq: v.number(),
  /** Milliseconds since 1970 UTC, of the run's clock. */
  at: v.number(),
  body: WakeBody,
  /** Hash of the event before; 64 zeros for the first. */
  prev: v.string(),
  hash: v.string(),
})
export type WakeEvent = v.InferOutput<typeof WakeEvent>
/** An event’s body by its type. */
export type BodyOf<T extends WakeBody['type']> = Extract<WakeBody, { type: T }>

/** The hash before the first event. */
export const noHash = '0'.repeat(64)

/** Chains a body to the event before it. */
export function sealEvent(body: WakeBody, at: number, before: WakeEvent | undefined): WakeEvent {
  const seq = (before?.seq ?? 0) + 1
  const prev = before?.hash ?? noHash
  return { seq, at, body, prev, hash: sha256Hex(canonicalJson([seq, at, prev, body])) }
}

/** An event as it is stored: its body is text, and any of its columns may have been altered. */
export interface StoredEvent {
  seq: number
  at: number
  type: string
  prev: string
  hash: string
  /** The body exactly as stored; null where the bytes are not UTF-8. */
  text: string | null
}

/**
 * Follows a stored chain over the raw text of each body, so that a member that no schema knows is found as well.
 * @param runId the run that the rows are stored under; the first event must name it.
 * @param digest SHA-256 as 64 hexadecimal digits; a server passes a faster one.
 * @returns sequence number of the first event that is missing, out of place, altered or unreadable; null when the chain holds.
 */
export function chainBreak(
  runId: string | undefined,
  rows: readonly StoredEvent[],
  digest: (text: string) => string = sha256Hex,
): number | null {
  let prev = noHash
  let due = 1
  for (const { seq, at, type, prev: before, hash, text } of rows) {
    if (seq !== due || before !== prev) return due
    const body = parsedAsStored(text)
    if (body === null || body.type !== type || (due === 1 && body.runId !== runId)) return due
    if (digest(canonicalJson([seq, at, prev, body])) !== hash) return due
    prev = hash
    due++
  }
  return null
}

/** The same for a wake in memory. */
export const brokenAt = (wake: readonly WakeEvent[]): number | null =>
  chainBreak(
    wake[0]?.body.type === 'run.opened' ? wake[0].body.runId : undefined,
    wake.map(({ body, ...event }) => ({ ...event, type: body.type, text: JSON.stringify(body) })),
  )

/** A body whose text is byte for byte what the program writes; null for any other text. */
function parsedAsStored(text: string | null): { type?: unknown; runId?: unknown } | null {
  if (text === null) return null
  try {
    const body = JSON.parse(text) as unknown
    return typeof body === 'object' && body !== null && JSON.stringify(body) === text ? body : null
  } catch {
    return null
  }
}

/** Keeps events. `append` resolves when the event is on disk, and events are kept in the order of the calls. */
export interface Journal {
  append(event: WakeEvent): Promise<void>
  /**
   * The last event that is kept, asked after an append that failed: a disk may have taken it and not said so. Without
   * this the last that was acknowledged counts.
   */
  last?(): Promise<WakeEvent | undefined>
  /** Keeps in memory what cannot be written now, and writes it as soon as it can be. */
  owe?(body: WakeBody, at: number): void
}

/** Writes a wake: seals each body in the order of the calls and hands it to the journal. */
export interface WakeWriter {
  /** Resolves when it is on disk. @throws JournalLost when it cannot be written. */
  record(body: WakeBody): Promise<void>
  /**
   * Says what has happened even where it cannot be written now. Nothing may follow that rests on it.
   * @throws JournalLost where the journal keeps no debts.
   */
  owe(body: WakeBody): Promise<void>
}

/** An event could not be written. What it announces must not be done. */
export class JournalLost extends Error {
  constructor(override readonly cause: unknown) {
    super(cause instanceof Error ? cause.message : String(cause), { cause })
    this.name = 'JournalLost'
  }
}

/**
 * Writes a wake: each event is sealed to the one before and kept before its act.
 * @param last where the wake goes on.
 */
export function wakeWriter(journal: Journal, clock: Clock, last?: WakeEvent): WakeWriter {
  let before = last
  let unsure = false
  let queue: Promise<void> = Promise.resolve()
  const keep = async (body: WakeBody, at: number) => {
    try {
      if (unsure && journal.last) before = await journal.last()
      unsure = false
      const event = sealEvent(body, at, before)
      await journal.append(event)
      before = event
    } catch (error) {
      unsure = true
      throw new JournalLost(error)
    }
  }
  const record = (body: WakeBody) => {
    // When it happened, and not when the disk had its turn.
    const at = clock.now()
    const kept = queue.then(() => keep(body, at))
    queue = kept.catch(() => {})
    return kept
  }
  return {
    record,
    async owe(body) {
      const at = clock.now()
      try {
        await record(body)
      } catch (error) {
        if (!journal.owe) throw error
        journal.owe(body, at)
      }
    },
  }
}
