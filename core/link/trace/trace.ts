import * as v from 'valibot'
import { speeches } from '../../family'
import { Problem } from '../../kernel'

/*
 * What went over a port, as an open file: JSON lines, the first of them a head. Bytes are hexadecimal, two digits each.
 */

/** What is spoken on the port, as far as a reader of the trace must know it. */
export const TraceSpeech = v.object({
  /** A protocol by the name that a profile calls it; `console` for text, `bytes` for what is neither. */
  speaks: v.picklist([...speeches, 'console', 'bytes']),
  /** Identifiers that messages go by on a bus; frames are shown one by one without them. */
  requestId: v.exactOptional(v.number()),
  answerId: v.exactOptional(v.number()),
  /** Each frame on such a bus begins with a byte of address. */
  addressed: v.exactOptional(v.boolean()),
  /** Further controllers on it, by their identifiers. */
  others: v.exactOptional(
    v.pipe(v.array(v.object({ requestId: v.number(), answerId: v.number() })), v.maxLength(32)),
  ),
})
export type TraceSpeech = v.InferOutput<typeof TraceSpeech>

const hex = v.pipe(
  v.string(),
  v.regex(/^([0-9a-f]{2})*$/, 'Bytes are pairs of lower-case hexadecimal digits'),
)

/** One thing that went over a port, at its time, ms. */
export const TraceEvent = v.variant('what', [
  v.object({
    at: v.number(),
    what: v.picklist(['data', 'bulk']),
    direction: v.picklist(['out', 'in']),
    bytes: hex,
  }),
  v.object({
    at: v.number(),
    what: v.literal('control'),
    direction: v.picklist(['out', 'in']),
    type: v.picklist(['standard', 'class', 'vendor']),
    request: v.number(),
    value: v.number(),
    bytes: hex,
    /** The device refused it. */
    stalled: v.exactOptional(v.boolean()),
  }),
  v.object({
    at: v.number(),
    what: v.picklist(['open', 'close', 'reset', 'back', 'lost']),
    says: v.string(),
  }),
  v.object({ at: v.number(), what: v.literal('lines'), says: v.string() }),
])
export type TraceEvent = v.InferOutput<typeof TraceEvent>

/** The first line of a saved trace. */
export const TraceHead = v.object({
  format: v.literal('bench-wake/trace'),
  formatVersion: v.literal(1),
  port: v.string(),
  startedAt: v.number(),
  speech: TraceSpeech,
})
export type TraceHead = v.InferOutput<typeof TraceHead>

/** What went over a port from when it was opened. */
export interface Trace {
  head: TraceHead
  events: TraceEvent[]
}

/** A trace as JSON lines, the head first. */
export function writeTrace({ head, events }: Trace): string {
  return [head, ...events].map((line) => JSON.stringify(line)).join('\n') + '\n'
}

/**
 * Reads a saved trace.
 * @throws Problem `trace-file` that names the first line that is none.
 */
export function readTrace(text: string): Trace {
  const lines = text.split('\n').filter((line) => line.trim() !== '')
  const parse = <T>(schema: v.GenericSchema<unknown, T>, line: string, number: number): T => {
    let read: unknown
    try {
      read = JSON.parse(line)
    } catch {
      throw badLine(number, 'this line is no JSON', line)
    }
    const result = v.safeParse(schema, read)
    if (result.success) return result.output
    throw badLine(number, result.issues[0].message, line)
  }
  if (lines.length === 0) throw badLine(1, 'the file is empty', '')
  return {
    head: parse(TraceHead, lines[0]!, 1),
    events: lines.slice(1).map((line, index) => parse(TraceEvent, line, index + 2)),
  }
}

function badLine(line: number, says: string, found: string): Problem {
  return new Problem({
    kind: 'trace-file',
    place: { line },
    says,
    found: found.slice(0, 60),
    remedy: 'Choose a trace that was saved by this program: JSON lines, the first with "bench-wake/trace".',
  })
}
