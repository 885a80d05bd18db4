import * as v from 'valibot'
import type { Finding } from '../../kernel'
import { cellTypes } from '../definition'
import { channelNamed, type Log, type LogChannel } from '../log'

const name = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80))
/** No channel of this trade shows more. */
const maxFigure = 1e12
/** A figure of a log. */
export const logFigure = v.pipe(v.number(), v.minValue(-maxFigure), v.maxValue(maxFigure))
/** A figure of a log that cannot be negative. */
export const positiveFigure = v.pipe(v.number(), v.minValue(0), v.maxValue(maxFigure))

/** What a channel is for; rules look for channels by it, since every maker calls them otherwise. */
export const channelRoles = [
  'speed',
  'load',
  'mixture',
  'knock',
  'supply',
  'temperature',
  'error',
  'switch',
  'other',
] as const
export type ChannelRole = (typeof channelRoles)[number]

/** A figure as a source shows it, times a factor, plus an offset. */
const figure = { scale: v.optional(logFigure, 1), offset: v.optional(logFigure, 0) }

/** How often a unit may be told to send a figure by itself (ISO 14229-1, service 2A). */
export const sendRates = ['slow', 'medium', 'fast'] as const
export type SendRate = (typeof sendRates)[number]

/** A data identifier and how its bytes are a figure: asked for (ISO 14229-1, service 22), or sent by itself at a rate. */
const ByteSource = v.strictObject({
  identifier: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(0xffff)),
  /** First byte of the figure within the answer. */
  at: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(255)), 0),
  type: v.picklist(cellTypes),
  order: v.optional(v.picklist(['little', 'big']), 'big'),
  ...figure,
  rate: v.exactOptional(v.picklist(sendRates)),
})
/** A line of what the unit shows over its own link, or of the page of a second device beside it. */
const LineSource = v.strictObject({ line: name, ...figure })
const BesideSource = v.strictObject({ beside: name, ...figure })

/** A channel that the calibrator asked for (PRACTICE K3). */
export const AgreedChannel = v.strictObject({
  name,
  unit: v.optional(v.pipe(v.string(), v.maxLength(20)), ''),
  role: v.optional(v.picklist(channelRoles), 'other'),
  /** What the sensor can show at all: a figure that stays there tells nothing. */
  min: v.exactOptional(logFigure),
  max: v.exactOptional(logFigure),
  /** How the bench gets it, where it records the log itself. */
  read: v.exactOptional(v.union([ByteSource, LineSource, BesideSource])),
})
export type AgreedChannel = v.InferOutput<typeof AgreedChannel>

/** A stretch of work that a log has to show: the channel between its limits for so long in all. */
export const Condition = v.strictObject({
  channel: name,
  min: v.exactOptional(logFigure),
  max: v.exactOptional(logFigure),
  seconds: positiveFigure,
})
export type Condition = v.InferOutput<typeof Condition>

/** One kind of log, in the order in which they are asked for (PRACTICE K2). */
export const LogKind = v.strictObject({
  id: v.pipe(v.string(), v.maxLength(40), v.regex(/^[a-z0-9]+(-[a-z0-9]+)*$/)),
  name,
  /** What to do for it, as said to the person. */
  asks: v.optional(v.pipe(v.string(), v.maxLength(400)), ''),
  minSeconds: positiveFigure,
  minHertz: positiveFigure,
  conditions: v.optional(v.pipe(v.array(Condition), v.maxLength(20)), []),
  /** What can hurt somebody in it. */
  caution: v.exactOptional(v.pipe(v.string(), v.maxLength(400))),
})
export type LogKind = v.InferOutput<typeof LogKind>

/** What must not happen in a log, everywhere or while another channel is above something. */
export const WatchedLimit = v.strictObject({
  channel: name,
  min: v.exactOptional(logFigure),
  max: v.exactOptional(logFigure),
  when: v.exactOptional(v.strictObject({ channel: name, min: logFigure })),
  /** How long it may last before it counts. */
  seconds: v.optional(positiveFigure, 0.1),
  says: name,
})
export type WatchedLimit = v.InferOutput<typeof WatchedLimit>

/** A log and what it is judged by. */
export interface LogQuestion {
  log: Log
  kind: LogKind
  channels: readonly AgreedChannel[]
  limits: readonly WatchedLimit[]
  /** Volts below which the supply must not go; null where nobody said. */
  floorVolts: number | null
}

/** One way in which a log can be useless, or tell of harm. */
export interface LogRule {
  id: string
  /** Null where it has nothing to say of this log. */
  judge(question: LogQuestion): Omit<Finding, 'rule'> | Omit<Finding, 'rule'>[] | null
}

/** The channels of the list that the log has, each with its agreement. */
export function presentChannels({
  log,
  channels,
}: LogQuestion): { agreed: AgreedChannel; channel: LogChannel }[] {
  return channels.flatMap((agreed) => {
    const channel = channelNamed(log, agreed.name)
    return channel ? [{ agreed, channel }] : []
  })
}
