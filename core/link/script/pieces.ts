import { longestAnswerMs, type LinkStep, type LinkStepOf, type SlotValue } from '../../family'
import { isProblem, type Problem } from '../../kernel'
import { pieceBytes, triesOf, type ScriptBench } from './bench'
import { awaitedText, awaitOne, quiet, takeData } from './exchange'
import { noAnswer, refuseAbandoned } from './failures'
import { answerFrame, frameOut, type FrameOut } from './frame-exchange'

/* A range in pieces: one after the other, or several under way before the first is answered. */

/** Carries out steps, with the path they stand at. */
export type RunSteps = (steps: readonly LinkStep[], bench: ScriptBench, at: string) => Promise<void>

interface Piece {
  address: number
  length: number
}
interface Pieces {
  count: number
  at(index: number): Piece
  /** Which piece begins at an address. */
  of(address: number): number
}

function piecesIn({ of, bytes }: LinkStepOf<'each'>, whole: Piece, bench: ScriptBench): Pieces {
  const size = of === 'sector' ? bench.sectorBytes : of === 'page' ? bench.pageBytes : (bytes ?? whole.length)
  return {
    count: Math.ceil(whole.length / size),
    at(index) {
      const address = whole.address + index * size
      return { address, length: Math.min(size, whole.address + whole.length - address) }
    },
    of: (address) => (address - whole.address) / size,
  }
}

/**
 * Steps for every piece of the range.
 * @throws Problem of the piece that did not pass, after its last try; `write-abandoned`.
 */
export async function each(
  step: LinkStepOf<'each'>,
  bench: ScriptBench,
  at: string,
  run: RunSteps,
): Promise<void> {
  const whole = bench.piece
  if (!whole || !bench.range) return
  const pieces = piecesIn(step, whole, bench)
  if (step.ahead === undefined) await oneByOne(step, bench, at, run, pieces)
  else await underWay(step, step.ahead, bench, at, run, pieces)
  setPiece(bench, whole)
}

async function oneByOne(
  step: LinkStepOf<'each'>,
  bench: ScriptBench,
  at: string,
  run: RunSteps,
  pieces: Pieces,
): Promise<void> {
  for (let index = 0; index < pieces.count; index++) {
    refuseAbandoned(bench, pieces.at(index).address - bench.range!.address)
    for (let attempt = 1; ; attempt++) {
      begin(bench, pieces, index)
      try {
        await run(step.steps, bench, at)
        break
      } catch (error) {
        passOrThrow(error, attempt, bench, at)
        // An answer that is only late would be taken for that to the next piece, and so on to the last.
        if (isProblem(error, 'no-answer')) await quiet(bench, longestAnswerMs(step))
        else await bench.stream.discard()
      }
    }
    await report(bench, pieces, index)
  }
}

/**
 * Pieces go out while answers to earlier ones are still on their way. Answers come in order. Where one does not come, or
 * refuses for now, whatever is under way is let go and all goes on from that piece, alone until it has passed: what went
 * out twice says where it belongs, so that twice is once.
 */
async function underWay(
  step: LinkStepOf<'each'>,
  ahead: number,
  bench: ScriptBench,
  at: string,
  run: RunSteps,
  pieces: Pieces,
): Promise<void> {
  const answer = step.steps.at(-1)!
  const answerAt = `${at}.${step.steps.length - 1}`
  const flight = new Map<number, FrameOut | null>()
  /** Refused while the answers to others before them were still due. */
  const refused: Refusals = new Map()
  /** The piece whose answer is due, and the first that has not gone out. */
  let due = 0
  let next = 0
  let attempt = 1
  while (due < pieces.count) {
    const most = attempt > 1 ? 1 : ahead
    const stops = () => next > due && bench.abandon?.raised
    // What is under way is answered first: the count of what the unit holds stays true.
    if (next === due) refuseAbandoned(bench, pieces.at(due).address - bench.range!.address)
    for (; next < pieces.count && next - due < most && refused.size === 0 && !stops(); next++) {
      begin(bench, pieces, next)
      await run(step.steps.slice(0, -1), bench, at)
      flight.set(next, answer.do === 'frame' ? await frameOut(answer, bench, answerAt) : null)
    }
    begin(bench, pieces, due)
    try {
      if (answer.do === 'frame') await answerFrame(answer, bench, answerAt, flight.get(due)!, true)
      else await awaitAnswer(answer as LinkStepOf<'expect'>, bench, answerAt, pieces, [due, next], refused)
      flight.delete(due)
      await report(bench, pieces, due)
      due++
      attempt = 1
    } catch (error) {
      passOrThrow(error, attempt, bench, at, answer.do === 'frame' || undefined)
      bench.sequence = flight.get(due)?.sequence ?? bench.sequence
      await quiet(bench, (answer as LinkStepOf<'expect'>).withinMs)
      refused.clear()
      next = due
      attempt++
    }
  }
}

/** Pieces that a unit refused for now, and what it said. */
type Refusals = Map<number, unknown>

/**
 * The answer to the piece that is due. One that says it belongs to an earlier piece is let go; a refusal that names a later
 * one waits until it is that one's turn.
 */
async function awaitAnswer(
  step: LinkStepOf<'expect'>,
  bench: ScriptBench,
  at: string,
  pieces: Pieces,
  [due, next]: readonly [number, number],
  refused: Refusals,
): Promise<void> {
  if (refused.has(due)) throw refused.get(due)
  const patterns = bench.compiled(step.patterns)
  const until = bench.clock.now() + step.withinMs
  for (;;) {
    const left = until - bench.clock.now()
    try {
      const found = left > 0 ? await awaitOne(patterns, left, bench, at, step.silenceMs) : null
      if (!found) throw noAnswer(bench, at, awaitedText(patterns), step.withinMs)
      if (named(bench, pieces, due) !== due) continue
      takeData(bench, found.slots)
      return
    } catch (error) {
      const piece = named(bench, pieces, due)
      if (piece === due || !isProblem(error, 'unit-refused-for-now')) throw error
      // One that never went out was not refused: the unit means something else.
      if (piece >= next || !Number.isInteger(piece)) throw error
      if (piece > due) refused.set(piece, error)
    } finally {
      begin(bench, pieces, due)
    }
  }
}

/** Which piece an answer names; the one that is due where it names none. */
function named({ slots, range }: ScriptBench, pieces: Pieces, due: number): number {
  const { address } = pieces.at(due)
  const says: [SlotValue | undefined, number, (value: number) => number][] = [
    [slots['address'], address, pieces.of],
    [slots['offset'], address - range!.address, (value) => pieces.of(value + range!.address)],
    [slots['index'], due, (value) => value],
    [slots['number'], due + 1, (value) => value - 1],
  ]
  const other = says.find(([value, own]) => String(value) !== String(own))
  return other ? other[2](Number(other[0])) : due
}

function begin(bench: ScriptBench, pieces: Pieces, index: number): void {
  setPiece(bench, pieces.at(index))
  Object.assign(bench.slots, { index, number: index + 1, count: pieces.count })
}

/** The values of a piece of the range. */
export function setPiece(bench: ScriptBench, piece: Piece): void {
  bench.piece = piece
  bench.filled = 0
  const { slots, range } = bench
  slots['address'] = piece.address
  slots['length'] = piece.length
  slots['offset'] = range ? piece.address - range.address : 0
  slots['end'] = piece.address + piece.length
  slots['last'] = piece.address + piece.length - 1
  if (bench.image) slots['data'] = pieceBytes(bench)
  else delete slots['data']
}

/** Counts another try where what went wrong may pass. @throws what went wrong, where it does not or was the last try. */
function passOrThrow(
  error: unknown,
  attempt: number,
  bench: ScriptBench,
  at: string,
  silencePasses = bench.script.writeTries !== undefined,
): void {
  const { script } = bench
  const passing = [
    'unit-refused-for-now',
    'frame-broken',
    'dump-gap',
    ...(silencePasses ? ['no-answer'] : []),
  ]
  const last = attempt >= triesOf(script) || bench.clock.now() >= bench.deadlineAt
  if (last || !passing.some((kind) => isProblem(error, kind))) throw error
  bench.retries++
  bench.tell({ at, says: `again: ${(error as Problem).facts.says}` })
}

async function report(bench: ScriptBench, pieces: Pieces, index: number): Promise<void> {
  const { address, length } = pieces.at(index)
  const range = bench.range!
  const sectors = bench.operation === 'erase'
  await bench.report({
    done: sectors ? index + 1 : address + length - range.address,
    total: sectors ? pieces.count : range.length,
    unit: sectors ? 'sectors' : 'bytes',
    retries: bench.retries,
  })
}
