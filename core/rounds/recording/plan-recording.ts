import { drivenLink, type DrivenLink, type Family } from '../../family'
import { durationText, inSentence, type Finding } from '../../kernel'
import { canFrameBits, linkLiveMs, singleBytes, tpFrames, wireMs, type SerialSettings } from '../../link'
import { cellBytes } from '../definition'
import type { AgreedChannel, LogKind } from '../quality'
import { isBytes, isOwn, type ChannelSource } from './channel-source'
import type { RatePeriods } from './row-source'

/** How long a link takes for what a log asks of it, ms. */
export interface RecordingLink {
  /** One data identifier, by the bytes of its answer; absent where it has none. */
  answerMs?(bytes: number): number
  /** A message that comes by itself, by its bytes, and how often each rate comes. */
  sentMs?(bytes: number): number
  periods?: RatePeriods
  /** Everything that it shows, once. */
  showMs?: number
}

/** What decides how quickly a vehicle bus carries questions and answers. */
export interface BusForm {
  bitsPerSecond: number
  /** Line to an adapter that carries frames as text; none where it costs nothing. */
  adapter?: SerialSettings
  /** Each frame begins with a byte of address (extended addressing). */
  addressed?: boolean
  /** Time a controller takes before it answers, ms; a few are usual (common practice). */
  thinkMs?: number
}

/** Characters of a full frame in the adapter's text, and of the answer to one that was sent. */
const [frameCharacters, answerCharacters] = [22, 2]
const usualThinkMs = 1

/**
 * A vehicle bus, each channel asked for by itself: a request frame and an answer (ISO 14229-1, service 22: its identifier,
 * two bytes, then the data), flow control where it needs more than one frame.
 */
export function recordingOverBus({
  bitsPerSecond,
  adapter,
  addressed,
  thinkMs = usualThinkMs,
}: BusForm): RecordingLink {
  const room = addressed ? 7 : 8
  const frameMs = (frames: number, sent: number) =>
    (frames * canFrameBits(8).likely * 1000) / bitsPerSecond +
    (adapter ? wireMs(frames * frameCharacters + sent * answerCharacters, adapter) : 0)
  return {
    answerMs(bytes) {
      const answer = 3 + bytes
      const sent = answer > singleBytes(room) ? 2 : 1
      return frameMs(tpFrames(answer, room) + sent, sent) + thinkMs
    },
    // 6A and the low byte of its identifier stand before the datum.
    sentMs: (bytes) => frameMs(tpFrames(2 + bytes, room), 0),
  }
}

/** Head and sum around a message on the single wire (ISO 14230-2), and what asks for a data identifier. */
const [singleWireHead, asksFor] = [4, 3]
/** Turning round on the single wire once the quickest times are agreed on, ms. */
const turnMs = 2

/** What a driven link takes for a log. */
export function recordingOverLink(link: DrivenLink): RecordingLink {
  const { drive, line } = link
  const showMs = linkLiveMs(link)
  if (drive.speaks === 'uds') {
    const { bitsPerSecond, addresses, periodic } = drive
    const periods: RatePeriods = {
      ...(periodic?.slowMs && { slow: periodic.slowMs }),
      ...(periodic?.mediumMs && { medium: periodic.mediumMs }),
      ...(periodic?.fastMs && { fast: periodic.fastMs }),
    }
    const bus = { bitsPerSecond, addressed: addresses !== undefined, ...(line ? { adapter: line } : {}) }
    return { ...recordingOverBus(bus), periods, showMs }
  }
  if (drive.speaks === 'kwp')
    return {
      answerMs: (bytes) => wireMs(2 * singleWireHead + asksFor + 3 + bytes, line!) + 2 * turnMs,
      showMs,
    }
  return { showMs }
}

/** Rows that differ from the next by less than this nobody tells apart. */
export const maxHertz = 100

/** Rows a second that a link allows; 0 where it gives none of the channels. */
export function recordingHertz(sources: readonly ChannelSource[], link: RecordingLink): number {
  const own = sources.filter(isOwn)
  const sent = own.flatMap((source) => (isBytes(source) && source.rate ? [source] : []))
  if (sent.length > 0) {
    const periods = sent.map(({ rate }) => link.periods?.[rate!] ?? Infinity)
    // What all of them take of a second: more than a second of it and each comes later than it should.
    const busy = sent.reduce(
      (sum, { at, type }, index) => sum + (link.sentMs?.(at + cellBytes[type]) ?? 0) / periods[index]!,
      0,
    )
    return Math.min(maxHertz, 1000 / Math.min(...periods) / Math.max(1, busy))
  }
  const askedMs = own.reduce(
    (sum, source) => sum + (isBytes(source) ? (link.answerMs?.(source.at + cellBytes[source.type]) ?? 0) : 0),
    0,
  )
  const rowMs = askedMs + (own.some((source) => 'line' in source) ? (link.showMs ?? 0) : 0)
  return rowMs > 0 ? Math.min(maxHertz, 1000 / rowMs) : 0
}

/**
 * Why a list cannot be recorded over a link, as a sentence; null where it can.
 * @param hasBeside whether a second device is described.
 */
export function recordingFault(
  channels: readonly AgreedChannel[],
  link: DrivenLink,
  hasBeside: boolean,
): string | null {
  const unread = unreadChannels(channels)
  if (unread.length > 0) return `nobody said how the bench gets ${unread.join(', ')}`
  const sources = channels.map(({ read }) => read!)
  const own = sources.filter(isOwn)
  if (own.length === 0) return 'no channel is read from the unit itself'
  if (own.length < sources.length && !hasBeside)
    return `nobody said which device gives ${channels.find(({ read }) => !isOwn(read!))!.name}`
  const asked = own.filter(isBytes)
  const { answerMs, periods } = recordingOverLink(link)
  if (asked.length > 0 && !answerMs)
    return `${inSentence(link.name)} has no data identifiers; take what it shows, as line and name`
  const sent = asked.filter(({ rate }) => rate !== undefined)
  const [unknown] = sent.filter(({ rate }) => !periods?.[rate!])
  if (unknown) return `the profile does not say how often the unit sends at the rate "${unknown.rate}"`
  if (sent.length > 0 && sent.length < own.length)
    return 'some channels are sent by the unit itself and others are asked for; one log takes one way'
  return null
}

/**
 * The link that a log is recorded over: the one that is joined, else the first that gives the whole list.
 * @param id the link that is joined, where that is known.
 * @returns null where no link of the family is driven; `fault` says why its list cannot be recorded.
 */
export function linkToRecord(
  { links }: Pick<Family, 'links'>,
  { channels, beside }: { channels: readonly AgreedChannel[]; beside?: unknown },
  id?: string,
): { link: DrivenLink; fault: string | null } | null {
  const driven = links.flatMap((link) => {
    const one = drivenLink({ links: [link] } as Family, id)
    return one ? [{ link: one, fault: recordingFault(channels, one, beside !== undefined) }] : []
  })
  return driven.find(({ fault }) => fault === null) ?? driven[0] ?? null
}

/** Tries that a kind of log usually takes, with the time between them (common practice). */
const [usualTries, betweenSeconds] = [2, 120]

/** How long a session for some kinds of log takes, as people work, s. */
export const sessionSeconds = (kinds: readonly LogKind[]): number =>
  kinds.reduce((sum, { minSeconds }) => sum + usualTries * (minSeconds + betweenSeconds), 0)

/**
 * Whether the laptop lasts for a session (PRACTICE K5).
 * @param minutesLeft of its battery; null where it is on mains, undefined where nobody said.
 */
export function judgeSession(kinds: readonly LogKind[], minutesLeft: number | null | undefined): Finding {
  const seconds = sessionSeconds(kinds)
  const takes = `About ${durationText(seconds * 1000)} for ${kinds.length} ${kinds.length === 1 ? 'kind' : 'kinds'} of log, each tried twice.`
  const rule = 'session-battery'
  const numbers = { seconds, ...(minutesLeft === null || minutesLeft === undefined ? {} : { minutesLeft }) }
  if (minutesLeft === undefined)
    return {
      rule,
      level: 'hold',
      says: 'Nobody said how long the laptop lasts.',
      because: takes,
      remedy: 'Say whether it is on mains, or how many minutes its battery has.',
      numbers,
    }
  if (minutesLeft === null)
    return { rule, level: 'go', says: 'The laptop is on mains.', because: takes, numbers }
  if (minutesLeft * 60 < seconds)
    return {
      rule,
      level: 'stop',
      says: 'The laptop does not last for this session.',
      because: `${takes} The battery has ${durationText(minutesLeft * 60_000)}.`,
      remedy: 'Charge it first, or put it on mains or on the vehicle’s own socket.',
      numbers,
    }
  return {
    rule,
    level: 'go',
    says: 'The laptop lasts for this session.',
    because: `${takes} The battery has ${durationText(minutesLeft * 60_000)}.`,
    numbers,
  }
}

/** Channels that cannot be read over the link, by name: their case says no identifier for them. */
export const unreadChannels = (channels: readonly AgreedChannel[]): string[] =>
  channels.filter(({ read }) => read === undefined).map(({ name }) => name)
