import { compilePattern, type LinkStepOf } from '../../family'
import { writeIntelHex, writeSRecord } from '../../image'
import { asciiBytes, hexNumber, isProblem, Problem } from '../../kernel'
import { wireMs } from '../port'
import { receiveXmodem, sendXmodem } from '../xmodem'
import { sendYmodem } from '../ymodem'
import { pieceBytes, triesOf, type ScriptBench } from './bench'
import { awaitedText, awaitOne, put, quiet, slotText } from './exchange'
import { noAnswer, refuseAbandoned } from './failures'

/* Whole pieces: block transfers, record lines, bytes as they are, and a memory printed as text. */

/**
 * Carries the piece as the step says.
 * @throws Problem of the transfer; `write-abandoned` with the byte of the whole write.
 */
export async function transfer(step: LinkStepOf<'transfer'>, bench: ScriptBench, at: string): Promise<void> {
  const bytes = pieceBytes(bench)
  const base = (bench.piece?.address ?? 0) - (bench.range?.address ?? 0)
  const total = bench.range?.length ?? bytes.length
  const before = bench.retries
  const report: CountReport = ({ done, retries }) => {
    bench.retries = before + retries
    return bench.report({ done: base + done, total, unit: 'bytes', retries: bench.retries })
  }
  bench.tell({ at, says: `${step.by}, ${bench.into ? 'taken in' : `${bytes.length} bytes`}` })
  if (bench.into) return takeIn(step, bench, at)
  try {
    await sendOut(step, bench, at, report)
  } catch (error) {
    if (!isProblem(error, 'write-abandoned')) throw error
    throw new Problem({ ...error.facts, place: { offset: base + (error.facts.place?.offset ?? 0) } })
  }
}

/** How far a piece is. */
type CountReport = (progress: { done: number; retries: number }) => Promise<void> | void

async function sendOut(
  step: LinkStepOf<'transfer'>,
  bench: ScriptBench,
  at: string,
  report: CountReport,
): Promise<void> {
  const port = bench.stream.asPort()
  const bytes = pieceBytes(bench)
  const form = {
    blockBytes: step.by === 'xmodem' ? (128 as const) : (1024 as const),
    padByte: step.padByte ?? 0xff,
    report,
    ...(bench.abandon ? { abandon: bench.abandon } : {}),
    ...(step.withinMs ? { startTimeoutMs: step.withinMs } : {}),
  }
  switch (step.by) {
    case 'xmodem':
    case 'xmodem-1k':
      await sendXmodem(port, bytes, form)
      return
    case 'ymodem':
      await sendYmodem(port, [{ name: slotText(step.fileName ?? 'image.bin', bench), bytes }], form)
      return
    case 'plain':
      for (let from = 0; from < bytes.length; from += 1024) {
        refuseAbandoned(bench, from)
        const part = bytes.subarray(from, from + 1024)
        await port.write(part)
        await report({ done: from + part.length, retries: 0 })
      }
      return
    case 'ihex-lines':
    case 'srec-lines':
      return sendLines(step, bench, at, report)
    default:
      return step.by satisfies never
  }
}

/** Bytes that the unit gives out by a block transfer, or as they are. */
async function takeIn(step: LinkStepOf<'transfer'>, bench: ScriptBench, at: string): Promise<void> {
  const port = bench.stream.asPort()
  const wanted = bench.piece?.length ?? 0
  if (step.by === 'plain') {
    const ms = (step.withinMs ?? 1000) + wireMs(wanted, port.settings)
    const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
    const whole = new Uint8Array(wanted)
    for (let from = 0; from < wanted;) {
      // What lies there already counts, however late it is read.
      const bytes = await bench.stream.some(until)
      if (!bytes) throw noAnswer(bench, at, `${wanted} bytes, and ${from} came`, ms)
      whole.set(bytes.subarray(0, wanted - from), from)
      bench.stream.giveBack(bytes.subarray(wanted - from))
      from += bytes.length
    }
    put(bench, whole)
    return
  }
  let taken = 0
  await receiveXmodem(port, {
    onBlock: async (data, offset) => {
      put(bench, data, offset)
      taken = Math.min(wanted, offset + data.length)
      await bench.report({ done: taken, total: wanted, unit: 'bytes', retries: bench.retries })
    },
  })
}

async function sendLines(
  step: LinkStepOf<'transfer'>,
  bench: ScriptBench,
  at: string,
  report: CountReport,
): Promise<void> {
  const bytes = pieceBytes(bench)
  const memory = [{ address: bench.piece?.address ?? 0, bytes }]
  const recordBytes = step.recordBytes ?? 16
  const text =
    step.by === 'ihex-lines'
      ? writeIntelHex(memory, { recordBytes })
      : writeSRecord(memory, { dataBytes: recordBytes })
  const lines = text.trimEnd().split('\n')
  const patterns = step.answer ? bench.compiled(step.answer) : null
  let done = 0
  let retries = 0
  for (const line of lines) {
    refuseAbandoned(bench, done)
    for (let attempt = 1; ; attempt++) {
      const withinMs = step.withinMs ?? 2000
      bench.lastSent = JSON.stringify(line.slice(0, 40))
      bench.stream.forget()
      await bench.stream.port.write(asciiBytes(line + (step.lineEnd ?? '\r\n')))
      if (!patterns) break
      try {
        if (await awaitOne(patterns, withinMs, bench, at)) break
        throw noAnswer(bench, at, awaitedText(patterns), withinMs)
      } catch (error) {
        // A line that was refused for now is sent again: it says its own address, so that twice is once.
        const silent = isProblem(error, 'no-answer')
        const passing = silent || isProblem(error, 'unit-refused-for-now')
        if (!passing || attempt >= triesOf(bench.script)) throw error
        // An answer that is only late would be taken for that to the next line, and so on to the last.
        if (silent) await quiet(bench, withinMs)
        retries++
      }
    }
    const record = /^(?::..|S[123])/.test(line)
    if (record) done = Math.min(bytes.length, done + dataOf(line))
    await report({ done, retries })
  }
}

/** Data bytes of a record line; none for one that only sets an address or ends the file. */
function dataOf(line: string): number {
  if (line.startsWith(':')) return line.slice(7, 9) === '00' ? parseInt(line.slice(1, 3), 16) : 0
  const width = { S1: 2, S2: 3, S3: 4 }[line.slice(0, 2)]
  return width === undefined ? 0 : parseInt(line.slice(2, 4), 16) - width - 1
}

/**
 * Reads a dump line by line into the piece.
 * @throws Problem `no-answer` where no line comes in time; `dump-gap` where one is missing among those that came, once the
 * rest is let go: it may be read again.
 */
export async function dump(step: LinkStepOf<'dump'>, bench: ScriptBench, at: string): Promise<void> {
  const pattern = [compilePattern({ text: step.line })]
  const { piece } = bench
  if (!piece) return
  while (bench.filled < piece.length) {
    const found = await awaitOne(pattern, step.withinMs, bench, at)
    if (!found && bench.filled > 0) throw gap(piece.address + bench.filled, 'nothing more', bench, at)
    if (!found) throw noAnswer(bench, at, `a line ${pattern[0]!.says}`, step.withinMs)
    const row = found.slots['row']
    // Half a byte is none: what stood there was no row of bytes.
    if (!(row instanceof Uint8Array) || row.length === 0) continue
    const line = found.slots['at']
    if (typeof line !== 'number') put(bench, row)
    else if (line + row.length > piece.address && line < piece.address + piece.length) {
      // A unit that prints whole lines begins before what was asked.
      const before = Math.max(0, piece.address - line)
      const offset = line + before - piece.address
      if (offset > bench.filled) {
        while (await awaitOne(pattern, step.withinMs, bench, at)) {
          // Of the rest of it, nothing stands in front of what is read next.
        }
        throw gap(piece.address + bench.filled, hexNumber(line, 8), bench, at)
      }
      put(bench, row.subarray(before), offset)
    }
    await bench.report({
      done: piece.address - (bench.range?.address ?? 0) + Math.min(bench.filled, piece.length),
      total: bench.range?.length ?? piece.length,
      unit: 'bytes',
      retries: bench.retries,
    })
  }
}

function gap(address: number, found: string, bench: ScriptBench, at: string): Problem {
  const says = 'a line of the dump is missing'
  bench.tell({ at, says })
  return new Problem({
    kind: 'dump-gap',
    thing: bench.thing,
    place: { at },
    says,
    expected: hexNumber(address, 8),
    found,
    remedy: 'It was read again and stayed so: use a slower speed, or flow control.',
  })
}
