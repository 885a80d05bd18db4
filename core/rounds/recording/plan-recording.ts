import { durationText, type Finding } from '../../kernel'
import { canFrameBits, singleBytes, tpFrames, wireMs, type SerialSettings } from '../../link'
import { cellBytes } from '../definition'
import type { AgreedChannel, LogKind } from '../quality'
import type { ChannelSource } from './channel-source'

/** What decides how often a list of channels can be read over a vehicle bus. */
export interface RecordingLink {
  bitsPerSecond: number
  /** Line to an adapter that carries frames as text; none where it costs nothing. */
  adapter?: SerialSettings
  /** Each frame begins with a byte of address (extended addressing). */
  addressed?: boolean
  /** Time a controller takes before it answers, ms; a few are usual (common practice). */
  answerMs?: number
}

/** Characters of a full frame in the adapter's text, and of the answer to one that was sent. */
const [frameCharacters, answerCharacters] = [22, 2]
const usualAnswerMs = 1

/** Rows that differ from the next by less than this nobody tells apart. */
export const maxHertz = 100

/**
 * Rows a second that a link allows, with every channel asked for by itself: a request frame and an answer (ISO 14229-1,
 * service 22: its identifier, two bytes, then the data), flow control where it needs more than one frame.
 */
export function recordingHertz(sources: readonly ChannelSource[], link: RecordingLink): number {
  const { bitsPerSecond, adapter, answerMs = usualAnswerMs, addressed } = link
  const room = addressed ? 7 : 8
  const bits = canFrameBits(8).likely
  const rowMs = sources.reduce((sum, { at, type }) => {
    const answer = 3 + at + cellBytes[type]
    const heard = tpFrames(answer, room)
    const sent = answer > singleBytes(room) ? 2 : 1
    const frames = heard + sent
    const text = adapter ? wireMs(frames * frameCharacters + sent * answerCharacters, adapter) : 0
    return sum + (frames * bits * 1000) / bitsPerSecond + text + answerMs
  }, 0)
  return rowMs > 0 ? Math.min(maxHertz, 1000 / rowMs) : 0
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
