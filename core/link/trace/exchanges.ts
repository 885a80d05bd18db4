import { asciiText, bytesOfHex, Problem } from '../../kernel'
import { lineOf, type SerialSettings } from '../port'
import { readTrace, type TraceEvent } from './trace'

/*
 * What a person sent and what a unit answered, out of a saved trace or the plain log of a terminal: so that a unit can be
 * taught from what was kept of it, without the unit beside it.
 */

/** One thing that was sent, and all that came until the next. */
export interface Exchange {
  /** Without its line's end; empty for what came before anything was sent. */
  sent: string
  /** What ended it; empty where that is not known, or nothing did. */
  lineEnd: string
  heard: string
}

/** What a file told, and how it was told who said what. */
export interface Exchanges {
  /** By a trace of this program, by marks of direction in a log, by the prompt that a unit shows; or nothing tells it. */
  by: 'trace' | 'marks' | 'prompt' | 'nothing'
  /** How its port was opened, where a trace says so. */
  line: SerialSettings | null
  exchanges: Exchange[]
}

/** No log is read further than this, characters: what is taught stands in its first page. */
export const mostLogText = 2_000_000
/** Exchanges beyond this many are left out: a person looks through them. */
const mostExchanges = 400

/**
 * Reads a saved trace, or a log.
 * @param prompt what the unit stops at, where it is known.
 * @throws Problem `trace-file` for a trace that is damaged; `no-text` where there is nothing to read.
 */
export function readExchanges(text: string, prompt: string | null = null): Exchanges {
  if (text.trim() === '')
    throw new Problem({
      kind: 'no-text',
      says: 'there is no text in this file',
      remedy: 'Choose a saved trace, or what a terminal program saved as text.',
    })
  if (/^\s*\{.*"bench-wake\/trace"/.test(text.slice(0, 400))) {
    const { events } = readTrace(text)
    const opened = events.findLast(({ what }) => what === 'open')
    const line = opened && 'says' in opened ? lineOf(opened.says) : null
    return { by: 'trace', line, exchanges: exchangesOfTrace(events).slice(0, mostExchanges) }
  }
  const { by, exchanges } = exchangesOfLog(text.slice(0, mostLogText), prompt)
  return { by, line: null, exchanges: exchanges.slice(0, mostExchanges) }
}

/** What was sent and heard by the events of a trace. */
export function exchangesOfTrace(events: readonly TraceEvent[]): Exchange[] {
  const turns = events.flatMap((event) =>
    event.what === 'data'
      ? [{ out: event.direction === 'out', text: asciiText(bytesOfHex(event.bytes)) }]
      : [],
  )
  return exchangesOf(turns)
}

function exchangesOf(turns: readonly { out: boolean; text: string }[]): Exchange[] {
  const exchanges: Exchange[] = []
  let last: Exchange | undefined
  for (const { out, text } of turns) {
    if (!last || (out && (last.heard !== '' || last.lineEnd !== '')))
      exchanges.push((last = { sent: '', lineEnd: '', heard: '' }))
    if (!out) last.heard += text
    else {
      const [, line, end] = /^([^]*?)([\r\n]*)$/.exec(last.sent + text)!
      last.sent = line!
      last.lineEnd = end!
    }
  }
  return exchanges.filter(({ sent, heard }) => sent !== '' || heard.trim() !== '')
}

/** A time before a line, as terminals write it: "12:03:04.123 ", "[2026-11-28 12:03:04] " (common practice). */
const stamp = /^\s*[[(]?(\d{4}-\d\d-\d\d[ T])?\d{1,2}:\d\d(:\d\d)?([.,]\d+)?( ?[AP]M)?Z?[\])]?\s*[:|-]?\s?/i
/** Marks of direction that logs have before a line (common practice); the first of each pair is what was sent. */
const marks: readonly (readonly [RegExp, RegExp])[] = [
  [/^(TX|OUT|SENT|SEND|WRITE|W)\b\s*[:>=|-]*\s?/i, /^(RX|IN|RECEIVED|RECV|RCVD|READ|R)\b\s*[:<=|-]*\s?/i],
  [/^(>>+|-+>|→)\s?/, /^(<<+|<-+|←)\s?/],
  [/^>\s?/, /^<\s?/],
]
/** Bytes written as pairs of digits. */
const hexPairs = /^([0-9A-Fa-f]{2}[\s,]+)*[0-9A-Fa-f]{2}[\s,]*$/

function exchangesOfLog(text: string, prompt: string | null): Omit<Exchanges, 'line'> {
  const lines = text
    .replace(/(\r\n|\r|\n)$/, '')
    .split(/\r\n|\r|\n/)
    .map((line) => (stamp.test(line) ? line.replace(stamp, '') : line))
  for (const [sent, heard] of marks) {
    const isMarked = (each: RegExp) => lines.filter((line) => each.test(line)).length
    const both = isMarked(sent) + isMarked(heard)
    if (isMarked(sent) > 0 && isMarked(heard) > 0 && both * 2 >= lines.filter((line) => line.trim()).length)
      return { by: 'marks', exchanges: byMarks(lines, sent, heard) }
  }
  const shown = [...new Set([...(prompt?.trim() ? [prompt] : []), ...commonPrompts(lines)])]
  if (shown.length > 0) return { by: 'prompt', exchanges: byPrompts(lines, shown) }
  return { by: 'nothing', exchanges: [{ sent: '', lineEnd: '', heard: lines.join('\r\n') }] }
}

function byMarks(lines: readonly string[], sent: RegExp, heard: RegExp): Exchange[] {
  const marked = lines.flatMap((line) => {
    const mark = sent.test(line) ? sent : heard.test(line) ? heard : null
    return mark
      ? [{ out: mark === sent, text: line.replace(mark, ''), follows: false }]
      : line.trim()
        ? [{ out: false, text: line, follows: true }]
        : []
  })
  // Bytes in pairs of digits where every marked line is written so: "OK" is text, "4F 4B" is not.
  const pairs = marked.filter(({ follows }) => !follows).every(({ text }) => hexPairs.test(text.trim()))
  return exchangesOf(
    marked.map(({ out, text }) => ({
      out,
      text: pairs ? asciiText(bytesOfHex(text.replace(/[^0-9A-Fa-f]/g, ''))) : out ? text : `${text}\r\n`,
    })),
  ).map((each) => (pairs ? each : { ...each, heard: each.heard.replace(/\r\n$/, '') }))
}

/**
 * What lines that could be a command begin with, twice at least: "boot> ", "=> ", most often first. A single mark as "$ " is
 * one only where nothing stands more often: remarks and refusals begin so too.
 */
function commonPrompts(lines: readonly string[]): string[] {
  const counts = new Map<string, number>()
  for (const line of lines) {
    const found = /^[\w@./~-]{0,24}(=>|>|#|\$)/.exec(line)?.[0]
    if (found) counts.set(found, (counts.get(found) ?? 0) + 1)
  }
  return [...counts]
    .sort(([, a], [, b]) => b - a)
    .filter(([text, count], index) => count > 1 && (index === 0 || text.length > 1))
    .map(([text]) => (lines.some((line) => line.startsWith(`${text} `)) ? `${text} ` : text))
}

function byPrompts(lines: readonly string[], prompts: readonly string[]): Exchange[] {
  const exchanges: Exchange[] = [{ sent: '', lineEnd: '', heard: '' }]
  for (const line of lines) {
    const last = exchanges.at(-1)!
    const prompt = prompts.find((each) => line.startsWith(each.trimEnd()))
    if (prompt === undefined) last.heard += `${line}\r\n`
    else {
      // The prompt is the end of what came before it.
      last.heard += prompt
      exchanges.push({ sent: line.slice(prompt.trimEnd().length).trim(), lineEnd: '', heard: '' })
    }
  }
  return exchanges.filter(
    ({ sent, heard }) => sent !== '' || (heard.trim() !== '' && !prompts.includes(heard)),
  )
}
