import {
  operations,
  type LinkScript,
  type LinkStep,
  type LinkStepOf,
  type OperationName,
  type Pattern,
} from '../schema'
import { compilePattern, hides } from './pattern'
import { frameFormFaults } from './frame-form-faults'
import { fixedWidth, isFormat, isSlot, readBytes, readEither, readText, type Token } from './template'

/** A fault in a script: the place by its path, and what is wrong with it. */
export interface LinkScriptFault {
  at: string
  says: string
}

/** Slots that an operation about a range of memory has. */
const rangeSlots = ['address', 'length', 'offset', 'end', 'last', 'size']
const pieceSlots = ['index', 'number', 'count']
/** Slots that are there from the beginning. */
const givenSlots: Record<OperationName, readonly string[]> = {
  page: [],
  live: [],
  enter: ['command'],
  attach: [],
  identify: [],
  unlock: [],
  read: rangeSlots,
  erase: rangeSlots,
  dryRun: [...rangeSlots, 'data'],
  write: [...rangeSlots, 'data'],
  check: [...rangeSlots, 'data'],
  start: [],
}
/** An operation that could go on for longer is none that anybody would wait for, ms. */
const maxOperationMs = 24 * 3_600_000

/**
 * What is wrong with a script, found before it is ever run: a slot that nothing fills, an answer that can never be reached,
 * a loop that sends nothing, a frame that is not described, an operation without an end.
 * @param memory what its operations are about: the largest range, and the units it is erased and programmed in, bytes.
 */
export function linkScriptFaults(script: LinkScript, memory: ScriptMemory): LinkScriptFault[] {
  const faults: LinkScriptFault[] = []
  const fault = (at: string, says: string) => void faults.push({ at, says })
  if (script.frame) frameFormFaults(script.frame, fault)
  for (const name of operations) {
    const operation = script.operations[name]
    if (!operation) continue
    const at = `operations.${name}`
    const filled = new Set([
      ...givenSlots[name],
      'component',
      ...(script.staging === undefined ? [] : ['staging']),
    ])
    stepFaults(operation.steps, `${at}.steps`, { script, name, filled, again: false }, fault)
    if (faults.length > 0) continue
    const longest = waitsMs(operation.steps, script, memory, rangeIn(name) ? memory.bytes : 0)
    if (longest > maxOperationMs) {
      fault(at, `It could go on for ${Math.round(longest / 3_600_000)} hours; 24 are the most`)
    }
    if (name === 'check' && !contains(operation.steps, ({ do: does }) => does === 'compare'))
      fault(at, 'It compares nothing: a check ends with a step `compare`')
    if (
      (name === 'page' || name === 'live') &&
      !contains(operation.steps, ({ do: does }) => does === 'page' || does === 'tell')
    )
      fault(at, 'It gathers no line: `page` takes all lines, `tell` one value')
    if (name === 'read' && !contains(operation.steps, givesData))
      fault(at, 'It takes no bytes: capture {data}, or take them with `transfer` or `dump`')
    if ((name === 'write' || name === 'dryRun') && !contains(operation.steps, takesData))
      fault(at, 'It sends no byte of the image: {data}, or a step `transfer`')
  }
  return faults
}

const rangeIn = (name: OperationName) => givenSlots[name].includes('address')

function contains(steps: readonly LinkStep[], test: (step: LinkStep) => boolean): boolean {
  return steps.some(
    (step) =>
      test(step) || ('steps' in step && step.do !== 'key' && contains(step.steps as LinkStep[], test)),
  )
}
const patternsIn = (step: LinkStep): readonly Pattern[] =>
  step.do === 'expect'
    ? step.patterns
    : step.do === 'frame'
      ? step.answer
      : step.do === 'page' || step.do === 'repeat'
        ? step.until
        : step.do === 'transfer'
          ? (step.answer ?? [])
          : []
const givesData = (step: LinkStep) =>
  step.do === 'transfer' ||
  step.do === 'dump' ||
  patternsIn(step).some((each) => compilePattern(each).slots.includes('data'))
const takesData = (step: LinkStep) =>
  step.do === 'transfer' ||
  ((step.do === 'send' || step.do === 'frame') &&
    readEither(step as { text?: string; bytes?: string }).some(
      (token) => isSlot(token) && token.slot === 'data',
    ))
const goesOut = ({ do: does }: LinkStep) =>
  ['send', 'frame', 'transfer', 'lines', 'expect', 'dump', 'page'].includes(does)

interface Standing {
  script: LinkScript
  name: OperationName
  /** Slots that have a value by now. */
  filled: Set<string>
  /** True within steps that are carried out more than once. */
  again: boolean
}
type Fault = (at: string, says: string) => void

function stepFaults(steps: readonly LinkStep[], path: string, standing: Standing, fault: Fault): void {
  for (const [index, step] of steps.entries()) stepFault(step, `${path}.${index}`, standing, fault)
}

function stepFault(step: LinkStep, at: string, standing: Standing, fault: Fault): void {
  const { filled, script, name } = standing
  const uses = (tokens: readonly Token[] | null, place: string) => {
    for (const token of tokens ?? []) {
      if (!isSlot(token)) continue
      if (!isFormat(token.format)) fault(place, `The format ":${token.format}" is none that is known`)
      if (filled.has(token.slot)) continue
      const piece = pieceSlots.includes(token.slot)
      fault(
        place,
        piece
          ? `{${token.slot}} counts pieces, and this step stands in no \`each\``
          : `Nothing fills {${token.slot}} before this step`,
      )
    }
  }
  switch (step.do) {
    case 'send':
      if ((step.text === undefined) === (step.bytes === undefined)) {
        fault(at, 'Say what is sent, as `text` or as `bytes`')
        return
      }
      uses(
        tokensOf(() => readEither(step as { text?: string; bytes?: string }), at, fault),
        at,
      )
      return
    case 'expect':
      return patternFaults(step.patterns, `${at}.patterns`, filled, fault)
    case 'page':
      return patternFaults(step.until, `${at}.until`, filled, fault)
    case 'tell':
      return uses(
        tokensOf(() => readText(step.value), at, fault),
        `${at}.value`,
      )
    case 'repeat':
      stepFaults(step.steps, `${at}.steps`, { ...standing, again: true }, fault)
      return patternFaults(step.until, `${at}.until`, filled, fault)
    case 'each': {
      if (!rangeIn(name)) fault(at, `${name} is about no range of memory: there are no pieces`)
      if (step.of === 'chunk' && step.bytes === undefined)
        fault(`${at}.bytes`, 'Say how many bytes a chunk has')
      if (step.of !== 'chunk' && step.bytes !== undefined)
        fault(`${at}.bytes`, `A ${step.of} has its size from the memory`)
      if (!contains(step.steps, goesOut)) fault(`${at}.steps`, 'Nothing in it goes over the line')
      if (step.ahead !== undefined) aheadFaults(step, at, script, fault)
      for (const slot of pieceSlots) filled.add(slot)
      stepFaults(step.steps, `${at}.steps`, { ...standing, again: true }, fault)
      return
    }
    case 'transfer': {
      if (!rangeIn(name) || name === 'erase') fault(at, `${name} has no bytes to transfer`)
      const lines = step.by === 'ihex-lines' || step.by === 'srec-lines'
      if (lines && name === 'read')
        fault(`${at}.by`, 'Record lines are only sent; a unit’s text is read with `dump`')
      if (!lines && step.answer) fault(`${at}.answer`, 'Only record lines have an answer each')
      if (step.fileName)
        uses(
          tokensOf(() => readText(step.fileName!), at, fault),
          `${at}.fileName`,
        )
      return step.answer ? patternFaults(step.answer, `${at}.answer`, filled, fault) : undefined
    }
    case 'dump': {
      if (name !== 'read') fault(at, 'A dump is read: it stands in `read`')
      const slots = tokensOf(() => readText(step.line), at, fault)?.filter(isSlot) ?? []
      if (!slots.some(({ slot, format }) => slot === 'row' && format === 'bytes'))
        fault(`${at}.line`, 'Say where the bytes stand: {row:bytes}')
      return patternFaults([{ text: step.line }], `${at}.line`, filled, fault)
    }
    case 'compute':
      filled.add(step.into)
      return
    case 'compare':
      if (name !== 'check') fault(at, 'Comparing is for `check`')
      if (!filled.has(step.slot)) fault(`${at}.slot`, `Nothing fills {${step.slot}} before this step`)
      return
    case 'frame':
      if (!script.frame) fault(at, 'The link describes no `frame`')
      uses(
        tokensOf(() => readBytes(step.bytes), at, fault),
        `${at}.bytes`,
      )
      return patternFaults(step.answer, `${at}.answer`, filled, fault, true)
    case 'key':
      if (!filled.has(step.seed)) fault(`${at}.seed`, `Nothing fills {${step.seed}} before this step`)
      filled.add(step.into)
      return
    case 'speed':
      if (Object.keys(step).length === 1) fault(at, 'It changes nothing')
      return
    case 'lines':
      if (step.dtr === undefined && step.rts === undefined && step.brk === undefined)
        fault(at, 'It sets no line')
      return
    case 'wait':
      return
    case 'ask':
      if (standing.again) fault(at, 'A person would be asked again and again: put it before the loop')
      if (step.as !== undefined && step.into === undefined)
        fault(at, 'Say `into` which slot what is typed goes')
      if (step.into !== undefined) filled.add(step.into)
      return
    default:
      return step satisfies never
  }
}

/** Slots by which a piece says where it belongs. */
const placeSlots = ['address', 'offset', ...pieceSlots.slice(0, 2)]

/** Several pieces under way: what is sent and what is awaited must be told apart, and what goes out twice must be harmless. */
function aheadFaults(step: LinkStepOf<'each'>, at: string, script: LinkScript, fault: Fault): void {
  const asks = step.steps.slice(0, -1)
  const last = step.steps.at(-1)!
  const sends = last.do === 'frame' ? [...asks, last] : asks
  const shaped =
    asks.every(({ do: does }) => does === 'send' || does === 'compute') &&
    (last.do === 'frame' || (last.do === 'expect' && asks.some(({ do: does }) => does === 'send')))
  if (!shaped) {
    fault(`${at}.steps`, 'With `ahead`, what is sent comes first, and one `expect` or one `frame` last')
    return
  }
  const says = sends.flatMap((each) =>
    each.do === 'send' || each.do === 'frame'
      ? readEither(each as { text?: string; bytes?: string }).flatMap((token) =>
          isSlot(token) ? [token.slot] : [],
        )
      : [],
  )
  if (!placeSlots.some((slot) => says.includes(slot)))
    fault(
      `${at}.ahead`,
      'A piece may go out twice: let it say where it belongs, by {address}, {offset}, {index} or {number}',
    )
  const numbered =
    last.do === 'frame'
      ? readBytes(script.frame?.layout ?? '').some((token) => isSlot(token) && token.slot === 'sequence')
      : patternsIn(last).some((each) => compilePattern(each).slots.some((slot) => placeSlots.includes(slot)))
  const { check, read } = script.operations
  if (!numbered && !check && !read)
    fault(
      `${at}.ahead`,
      'An answer may be taken for that of another piece, and nothing is compared: let it say which it belongs to, or describe `check` or `read`',
    )
  const echoes = asks.some((each) => each.do === 'send' && each.echoWithinMs !== undefined)
  if (echoes || (last.do === 'frame' && script.frame?.echo))
    fault(`${at}.ahead`, 'An echo is waited for: one piece at a time')
}

function tokensOf(read: () => Token[], at: string, fault: Fault): Token[] | null {
  try {
    return read()
  } catch (error) {
    fault(at, (error as Error).message)
    return null
  }
}

function patternFaults(
  patterns: readonly Pattern[],
  at: string,
  filled: Set<string>,
  fault: Fault,
  whole = false,
): void {
  const compiled = patterns.map((pattern, index) => {
    const place = `${at}.${index}`
    const tokens = tokensOf(() => readEither(pattern), place, fault)
    if (!tokens) return null
    tokens.forEach((token, position) => {
      if (!isSlot(token)) return
      if (!isFormat(token.format)) fault(place, `The format ":${token.format}" is none that is known`)
      filled.add(token.slot)
      const next = tokens[position + 1]
      if (next && isSlot(next) && fixedWidth(token) === null)
        fault(
          place,
          `{${token.slot}} has no end: put a text between it and {${next.slot}}, or give it a width`,
        )
      if (whole && next && fixedWidth(token) === null)
        fault(
          place,
          `{${token.slot}} takes all that is left of the frame: it stands at the end, or has a width`,
        )
    })
    const own = compilePattern(pattern)
    if (own.means === 'progress' && !['done', 'total'].every((slot) => own.slots.includes(slot)))
      fault(place, 'Progress is {done} of {total}')
    return own
  })
  if (compiled.every((pattern) => pattern && pattern.means !== 'go')) fault(at, 'None of these goes on')
  compiled.forEach((second, later) => {
    const first = compiled.slice(0, later).find((each) => each && second && hides(each, second))
    if (first) fault(`${at}.${later}`, `It is never reached: ${first.says} is whole before it`)
  })
}

/** What the operations of a script are about, bytes. */
export interface ScriptMemory {
  bytes: number
  sectorBytes: number
  pageBytes: number
}

/** Pieces that an `each` makes of a range: their size and their number. */
export function piecesOf(
  step: Pick<LinkStepOf<'each'>, 'of' | 'bytes'>,
  memory: Omit<ScriptMemory, 'bytes'>,
  bytes: number,
): { size: number; count: number } {
  const size =
    step.of === 'sector'
      ? memory.sectorBytes
      : step.of === 'page'
        ? memory.pageBytes
        : (step.bytes ?? Math.max(1, bytes))
  return { size: Math.min(size, Math.max(1, bytes)), count: Math.max(1, Math.ceil(bytes / size)) }
}

/** How long an answer to a piece may take, ms. */
export const longestAnswerMs = ({ steps }: LinkStepOf<'each'>): number =>
  Math.max(0, ...steps.map((step) => ('withinMs' in step ? (step.withinMs ?? 0) : 0)))

/** All waits of steps to their end, with every try, ms: what the wire takes comes on top. */
function waitsMs(
  steps: readonly LinkStep[],
  script: LinkScript,
  memory: ScriptMemory,
  bytes: number,
): number {
  const tries = script.writeTries ?? 3
  const inside = (own: readonly LinkStep[], size: number) => waitsMs(own, script, memory, size)
  return steps.reduce((sum, step) => {
    switch (step.do) {
      case 'expect':
      case 'page':
        return sum + step.withinMs
      case 'repeat':
        return sum + (inside(step.steps, bytes) + step.everyMs) * step.times
      case 'each': {
        const { size, count } = piecesOf(step, memory, bytes)
        // Before a piece goes out again, it is waited until a late answer can no longer come.
        const quiet = step.ahead !== undefined || script.writeTries !== undefined ? longestAnswerMs(step) : 0
        return sum + (inside(step.steps, size) + quiet) * count * tries
      }
      case 'dump':
        return sum + step.withinMs * Math.ceil(bytes / 16)
      case 'frame':
        return sum + 2 * step.withinMs * (script.frame?.tries ?? 3)
      case 'transfer':
        return sum + (step.answer ? (step.withinMs ?? 2000) * Math.ceil(bytes / (step.recordBytes ?? 16)) : 0)
      case 'lines':
        return sum + step.forMs
      case 'wait':
        return sum + step.ms
      case 'send':
        return (
          sum +
          ((step.characterPauseMs ?? 0) + (step.echoWithinMs ?? 0)) * (step.text ?? step.bytes ?? '').length
        )
      case 'ask':
      case 'speed':
      case 'tell':
      case 'compute':
      case 'compare':
      case 'key':
        return sum
      default:
        return step satisfies never
    }
  }, 0)
}
