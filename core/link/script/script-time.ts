import {
  longestAnswerMs,
  piecesOf,
  type LinkScript,
  type LinkStep,
  type Operation,
  compilePattern,
  fixedWidth,
  isSlot,
  readBytes,
  readEither,
  type Token,
} from '../../family'
import { wireMs, type SerialSettings } from '../port'
import { xmodemWireMs } from '../xmodem'
import { triesOf } from './bench'
import { frameBytes, frameDialect, type FrameDialect } from './frame'

/** What a script's time depends on. */
export interface ScriptTimeForm {
  script: LinkScript
  settings: SerialSettings
  /** Bytes that are read, written or compared; 0 where the operation is about none. */
  bytes: number
  sectorBytes: number
  pageBytes: number
}

/** Usual length of what a slot without a width holds, characters. */
const usualSlot = 8

/**
 * What an operation usually takes on the wire, ms, step by step: characters by the speed, pauses as written, an answer by
 * its shortest form and the unit's usual thinking. What the unit's memory needs is no part of it.
 */
export function scriptLikelyMs(operation: Operation | undefined, form: ScriptTimeForm): number {
  return operation ? sumLikely(operation.steps, form, form.bytes) : 0
}

/**
 * What an operation takes at the very longest, ms: every wait to its end, every try used. No operation may go on beyond
 * it by more than one wait.
 */
export function scriptLongestMs(operation: Operation, form: ScriptTimeForm): number {
  return sumLongest(operation.steps, form, form.bytes)
}

/**
 * What a write still takes after its last byte has gone out, ms. Where a second command follows the data, the unit held
 * them in a buffer until then, and its memory is programmed by that command.
 * @param programMs what the unit's memory needs for all of it.
 */
export function scriptTailMs(
  operation: Operation | undefined,
  form: ScriptTimeForm,
  programMs: number,
): number {
  const steps = operation?.steps ?? []
  const last = steps.findLastIndex(carriesData)
  if (last < 0) return 0
  const after = steps.slice(last + 1)
  const burns = after.some(isCommand)
  return sumLikely(after, form, form.bytes) + (burns ? programMs : 0)
}

/** A step that asks the unit for something; a bare line end only asks whether it is there. */
export const isCommand = (step: LinkStep): boolean =>
  step.do === 'frame' || (step.do === 'send' && (step.bytes !== undefined || /\S/.test(step.text ?? '')))

function carriesData(step: LinkStep): boolean {
  switch (step.do) {
    case 'transfer':
      return true
    case 'each':
    case 'repeat':
      return step.steps.some(carriesData)
    case 'send':
    case 'frame':
      return /\{data\b/.test(('text' in step ? step.text : undefined) ?? step.bytes ?? '')
    default:
      return false
  }
}

const sumLikely = (steps: readonly LinkStep[], form: ScriptTimeForm, bytes: number): number =>
  steps.reduce((sum, step) => sum + likelyMs(step, form, bytes), 0)
const sumLongest = (steps: readonly LinkStep[], form: ScriptTimeForm, bytes: number): number =>
  steps.reduce((sum, step) => sum + longestMs(step, form, bytes), 0)

/** Characters that a template is on the wire; {data} is the piece that is due. */
function lengthOf(tokens: readonly Token[], bytes: number): number {
  return tokens.reduce((sum, token) => {
    const width = fixedWidth(token)
    if (width !== null) return sum + width
    const isData = isSlot(token) && token.slot === 'data'
    const digits = isSlot(token) && /hex/.test(token.format)
    return sum + (isData ? bytes * (digits ? 2 : 1) : usualSlot)
  }, 0)
}

const sentLength = (step: { text?: string; bytes?: string }, bytes: number) =>
  lengthOf(readEither(step), bytes)

/** Characters of a record line beside its data: mark, count, address, type, checksum, end of line. */
const recordCharacters = { 'ihex-lines': 13, 'srec-lines': 16 } as const

function transferMs(
  step: Extract<LinkStep, { do: 'transfer' }>,
  form: ScriptTimeForm,
  bytes: number,
): number {
  const { settings } = form
  switch (step.by) {
    case 'plain':
      return wireMs(bytes, settings)
    case 'xmodem':
      return xmodemWireMs(bytes, 128, settings)
    case 'xmodem-1k':
      return xmodemWireMs(bytes, 1024, settings)
    case 'ymodem':
      // A batch has a header before and after, each a small block with its answers.
      return xmodemWireMs(bytes, 1024, settings) + 2 * xmodemWireMs(128, 128, settings)
    case 'ihex-lines':
    case 'srec-lines': {
      const lines = Math.ceil(bytes / (step.recordBytes ?? 16))
      const answer = step.answer ? shortestAnswer(step.answer, bytes) : 0
      const characters = 2 * bytes + lines * (recordCharacters[step.by] + answer)
      return wireMs(characters, settings) + (step.answer ? lines * (form.script.thinkMs ?? 0) : 0)
    }
    default:
      return step.by satisfies never
  }
}

function shortestAnswer(patterns: Extract<LinkStep, { do: 'expect' }>['patterns'], bytes: number): number {
  const lengths = patterns
    .filter(({ means = 'go' }) => means === 'go')
    .map((pattern) => {
      const data = readEither(pattern).filter(
        (token) => isSlot(token) && token.slot === 'data' && fixedWidth(token) === null,
      )
      // The shortest form has one character of it already.
      return compilePattern(pattern).min + Math.max(0, lengthOf(data, bytes) - data.length)
    })
  return lengths.length > 0 ? Math.min(...lengths) : 0
}

const dialects = new WeakMap<object, FrameDialect>()
function dialectOf(script: LinkScript): FrameDialect | null {
  if (!script.frame) return null
  let dialect = dialects.get(script.frame)
  if (!dialect) dialects.set(script.frame, (dialect = frameDialect(script.frame)))
  return dialect
}

/** A frame out and its answer, ms on the wire. */
function frameMs(step: Extract<LinkStep, { do: 'frame' }>, form: ScriptTimeForm, bytes: number): number {
  const dialect = dialectOf(form.script)
  if (!dialect) return 0
  const out = frameBytes(dialect, lengthOf(readBytes(step.bytes), bytes))
  const back = frameBytes(dialect, shortestAnswer(step.answer, bytes))
  return wireMs(out + back + (dialect.form.echo ? out : 0), form.settings)
}

function likelyMs(step: LinkStep, form: ScriptTimeForm, bytes: number): number {
  const { settings, script } = form
  const think = script.thinkMs ?? 0
  switch (step.do) {
    case 'send': {
      const length = sentLength(step as { text?: string; bytes?: string }, bytes)
      const echo = step.echoWithinMs ? wireMs(length, settings) : 0
      return wireMs(length, settings) + echo + length * (step.characterPauseMs ?? 0)
    }
    case 'expect':
      return wireMs(shortestAnswer(step.patterns, bytes), settings) + think
    case 'page':
      return wireMs(160, settings) + think
    case 'lines':
      return step.forMs
    case 'wait':
      return step.ms
    case 'repeat':
      return sumLikely(step.steps, form, bytes) + think
    case 'each': {
      const { size, count } = piecesOf(step, form, bytes)
      const turn = sumLikely(step.steps, form, size)
      if (step.ahead === undefined) return turn * count
      // A line carries both ways at once: what takes longest a piece sets the pace, and the first goes its whole way.
      const out = step.steps.reduce((sum, each) => sum + outMs(each, form, size), 0)
      const back = Math.max(0, turn - out - think)
      return turn + Math.max(out, back, turn / step.ahead) * (count - 1)
    }
    case 'transfer':
      return transferMs(step, form, bytes)
    case 'dump': {
      // Address, digits and blanks of a row of sixteen.
      return wireMs(Math.ceil(bytes / 16) * (step.line.length + 48), settings)
    }
    case 'frame':
      return frameMs(step, form, bytes) + think
    case 'speed':
    case 'ask':
    case 'tell':
    case 'compute':
    case 'compare':
    case 'key':
      return 0
    default:
      return step satisfies never
  }
}

/** What a step takes of the way out, ms. */
function outMs(step: LinkStep, form: ScriptTimeForm, bytes: number): number {
  if (step.do === 'expect') return 0
  const dialect = dialectOf(form.script)
  return step.do === 'frame' && dialect
    ? wireMs(frameBytes(dialect, lengthOf(readBytes(step.bytes), bytes)), form.settings)
    : likelyMs(step, form, bytes)
}

/** Longest waits of a block transfer beside its blocks: its start, and giving up on a silent unit (Forsberg 1988), ms. */
const transferPatienceMs = 60_000 + 3 * 20_000

function longestMs(step: LinkStep, form: ScriptTimeForm, bytes: number): number {
  const { settings, script } = form
  const tries = triesOf(script)
  switch (step.do) {
    case 'send': {
      const length = sentLength(step as { text?: string; bytes?: string }, bytes)
      const each = (step.characterPauseMs ?? 0) + (step.echoWithinMs ?? 0)
      return wireMs(length, settings) + length * each
    }
    case 'expect':
    case 'page':
      return step.withinMs
    case 'repeat':
      return (sumLongest(step.steps, form, bytes) + step.everyMs) * step.times
    case 'each': {
      const { size, count } = piecesOf(step, form, bytes)
      // Before a piece goes out again, it is waited until a late answer can no longer come.
      const quiet = step.ahead !== undefined || script.writeTries !== undefined ? longestAnswerMs(step) : 0
      return (sumLongest(step.steps, form, size) + quiet) * count * tries
    }
    case 'transfer': {
      const lines = step.by === 'ihex-lines' || step.by === 'srec-lines'
      if (step.by === 'plain') return transferMs(step, form, bytes) + (step.withinMs ?? 1000)
      if (!lines) return 10 * transferMs(step, form, bytes) + transferPatienceMs
      const count = Math.ceil(bytes / (step.recordBytes ?? 16)) + 4
      // A line that is not answered goes out again once a late answer can no longer come.
      return tries * (transferMs(step, form, bytes) + 2 * count * (step.withinMs ?? 2000))
    }
    case 'dump':
      return (bytes + 1) * step.withinMs
    case 'frame':
      return (script.frame?.tries ?? 3) * (frameMs(step, form, bytes) + 2 * step.withinMs)
    case 'lines':
    case 'wait':
    case 'ask':
    case 'speed':
    case 'tell':
    case 'compute':
    case 'compare':
    case 'key':
      return likelyMs(step, form, bytes)
    default:
      return step satisfies never
  }
}
