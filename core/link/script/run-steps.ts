import {
  type LinkStep,
  compilePattern,
  Matcher,
  matchHead,
  type Compiled,
  type Found,
  fillSlots,
  readEither,
  readText,
  type SlotValue,
} from '../../family'
import { asciiBytes, asciiText, concatBytes, equalBytes, hexNumber, isProblem, Problem } from '../../kernel'
import { writeIntelHex, writeSRecord } from '../../image'
import { writeAbandoned } from '../loader'
import { wireMs } from '../port'
import { keyOfSeed } from '../uds'
import { receiveXmodem, sendXmodem } from '../xmodem'
import { sendYmodem } from '../ymodem'
import { pieceBytes, type ScriptBench } from './bench'
import { checksumBits, checksumOf, checksumText } from './checksum'
import { heardText, noAnswer, refused } from './failures'
import { brokenFrame, decodeFrame, encodeFrame, frameEnd, unstuff } from './frame'

/**
 * Runs steps one after the other. This is the whole interpreter: a step is looked up by what it does, and each knows its
 * own deadline.
 */
export async function runSteps(steps: readonly LinkStep[], bench: ScriptBench, path: string): Promise<void> {
  for (const [index, step] of steps.entries()) await runStep(step, bench, `${path}.${index}`)
}

async function runStep(step: LinkStep, bench: ScriptBench, at: string): Promise<void> {
  switch (step.do) {
    case 'send':
      return send(step, bench, at)
    case 'expect':
      return expect(step, bench, at)
    case 'repeat':
      return repeat(step, bench, at)
    case 'lines': {
      const { dtr, rts, brk } = step
      await bench.stream.port.setLines({
        ...(dtr === undefined ? {} : { dtr }),
        ...(rts === undefined ? {} : { rts }),
        ...(brk === undefined ? {} : { brk }),
      })
      bench.tell({ at, says: 'control lines set' })
      return pause(bench, step.forMs)
    }
    case 'speed': {
      const { do: _, ...changed } = step
      const { port } = bench.stream
      const settings = { ...port.settings, ...changed }
      await port.close()
      await port.open(settings)
      bench.tell({ at, says: `${settings.baudRate} baud from here on` })
      return
    }
    case 'wait':
      return pause(bench, step.ms)
    case 'page':
      return page(step, bench, at)
    case 'tell':
      bench.lines.push(...bench.pageLine(step.field, slotText(step.value, bench)))
      return
    case 'each':
      return each(step, bench, at)
    case 'transfer':
      return transfer(step, bench, at)
    case 'dump':
      return dump(step, bench, at)
    case 'compute': {
      const bytes = step.over === 'image' ? (bench.image ?? new Uint8Array(0)) : pieceBytes(bench)
      bench.slots[step.into] = checksumOf(step.checksum, bytes)
      return
    }
    case 'compare': {
      const digits = Math.ceil(checksumBits(step.checksum) / 4)
      bench.compared.push({
        name: checksumText(step.checksum),
        expected: hexNumber(checksumOf(step.checksum, pieceBytes(bench)), digits),
        found: sumText(bench.slots[step.slot], digits),
      })
      return
    }
    case 'frame':
      return frame(step, bench, at)
    case 'key': {
      const seed = bench.slots[step.seed]
      const bytes =
        seed instanceof Uint8Array
          ? seed
          : typeof seed === 'number'
            ? wordBytes(seed)
            : asciiBytes(seed ?? '')
      bench.slots[step.into] = keyOfSeed(bytes, step.steps)
      return
    }
    default:
      return step satisfies never
  }
}

type Of<D extends LinkStep['do']> = Extract<LinkStep, { do: D }>

const wordBytes = (value: number) =>
  Uint8Array.of(value >>> 24, (value >>> 16) & 255, (value >>> 8) & 255, value & 255)

/** What a unit gave as its sum, as digits; empty where it gave none. */
function sumText(value: SlotValue | undefined, digits: number): string {
  if (value === undefined) return ''
  if (typeof value === 'number') return hexNumber(value, digits)
  if (value instanceof Uint8Array) return [...value].map((byte) => hexNumber(byte, 2)).join('')
  return value.toUpperCase().replace(/^0X/, '').padStart(digits, '0')
}

const slotText = (text: string, bench: ScriptBench): string =>
  asciiText(fillSlots(readText(text), bench.slots))

/** Waits no longer than the operation may last. */
function pause(bench: ScriptBench, ms: number): Promise<void> {
  return ms <= 0
    ? Promise.resolve()
    : bench.clock.sleep(Math.min(ms, Math.max(0, bench.deadlineAt - bench.clock.now())))
}

async function send(step: Of<'send'>, bench: ScriptBench, at: string): Promise<void> {
  const bytes = fillSlots(readEither(step as { text?: string; bytes?: string }), bench.slots)
  const { port } = bench.stream
  bench.lastSent = heardText(bytes, 40)
  bench.stream.forget()
  if (step.characterPauseMs || step.echoWithinMs) {
    for (const byte of bytes) {
      await port.write(Uint8Array.of(byte))
      if (step.echoWithinMs) await awaitEcho(byte, step.echoWithinMs, bench, at)
      await pause(bench, step.characterPauseMs ?? 0)
    }
  } else await port.write(bytes)
  bench.tell({ at, says: 'sent', sent: bytes })
}

async function awaitEcho(byte: number, ms: number, bench: ScriptBench, at: string): Promise<void> {
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  for (;;) {
    const bytes = await bench.stream.some(until)
    if (!bytes) throw noAnswer(bench, at, `the echo of ${heardText(Uint8Array.of(byte))}`, ms)
    const found = bytes.indexOf(byte)
    if (found < 0) continue
    bench.stream.giveBack(bytes.subarray(found + 1))
    return
  }
}

const awaitedText = (patterns: readonly Compiled[]) =>
  patterns
    .filter(({ means }) => means === 'go')
    .map(({ says }) => says)
    .join(' or ')

/**
 * Waits for one of several patterns. Busy and progress are told and waited on: the whole wait has one deadline, so that a
 * unit that chatters cannot hold it.
 * @returns the match that goes on; null when the time was over.
 * @throws Problem `unit-refused`, `unit-refused-for-now`.
 */
async function awaitOne(
  patterns: readonly Compiled[],
  ms: number,
  bench: ScriptBench,
  at: string,
): Promise<(Found & { before: Uint8Array }) | null> {
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  let matcher = new Matcher(patterns)
  let fed: Uint8Array[] = []
  for (;;) {
    const bytes = await bench.stream.some(until)
    if (!bytes) return null
    let used = false
    for (let index = 0; index < bytes.length && !used; index++) {
      const found = matcher.feed(bytes[index]!)
      if (!found) continue
      Object.assign(bench.slots, found.slots)
      const before = concatBytes([...fed, bytes.subarray(0, index + 1)]).subarray(0, found.start)
      bench.stream.giveBack(bytes.subarray(index + 1))
      const { means } = found.pattern
      if (means === 'refused' || means === 'again') {
        const { reason } = found.slots
        throw refused(
          bench,
          at,
          reason === undefined ? found.pattern.says : String(reason),
          means === 'again',
        )
      }
      bench.tell({ at, says: `${found.pattern.says} came`, heard: bench.stream.heard() })
      if (means === 'go') return { ...found, before }
      if (means === 'progress') {
        const { done, total } = found.slots
        await bench.report({
          done: Number(done),
          total: Number(total),
          unit: 'sectors',
          retries: bench.retries,
        })
      }
      matcher = new Matcher(patterns)
      fed = []
      used = true
    }
    // What was fed is the text before the match; no more of it is kept than a page.
    if (!used && fed.reduce((sum, { length }) => sum + length, 0) < 65_536) fed.push(bytes)
    if (bench.clock.now() > until) return null
  }
}

async function expect(step: Of<'expect'>, bench: ScriptBench, at: string): Promise<void> {
  const patterns = bench.compiled(step.patterns)
  const found = await awaitOne(patterns, step.withinMs, bench, at)
  if (!found) throw noAnswer(bench, at, awaitedText(patterns), step.withinMs)
  takeData(bench, found.slots)
}

/** What a unit gives out under the name `data` is what was asked for. */
function takeData(bench: ScriptBench, { data }: Readonly<Record<string, SlotValue>>): void {
  if (bench.into && data instanceof Uint8Array) put(bench, data)
}

function put(bench: ScriptBench, data: Uint8Array, offset?: number): void {
  const { into, piece, range } = bench
  if (!into || !piece || !range) return
  const at = piece.address - range.address + (offset ?? bench.filled)
  const end = piece.address - range.address + piece.length
  into.set(data.subarray(0, Math.max(0, end - at)), at)
  bench.filled = Math.max(bench.filled, at + data.length - (piece.address - range.address))
}

async function repeat(step: Of<'repeat'>, bench: ScriptBench, at: string): Promise<void> {
  const until = bench.compiled(step.until)
  for (let time = 0; time < step.times && bench.clock.now() < bench.deadlineAt; time++) {
    if (bench.abandon?.raised) throw writeAbandoned(bench.thing, bench.filled, 'the unit stays as it is')
    await runSteps(step.steps, bench, at)
    if (await awaitOne(until, step.everyMs, bench, at)) return
  }
  throw noAnswer(bench, at, awaitedText(until), bench.clock.now() - bench.startedAt)
}

async function page(step: Of<'page'>, bench: ScriptBench, at: string): Promise<void> {
  const patterns = bench.compiled(step.until)
  const found = await awaitOne(patterns, step.withinMs, bench, at)
  if (!found) throw noAnswer(bench, at, awaitedText(patterns), step.withinMs)
  const lines = asciiText(found.before)
    .split(/[\r\n]+/)
    .map((line) => line.trim())
    .filter((line) => line !== '')
  // The first line may be the command as the unit echoes it.
  const echo = bench.lastSent.replace(/^"|(\\r|\\n)*"$/g, '')
  if (echo !== '' && lines[0]?.endsWith(echo)) lines.shift()
  bench.lines.push(...lines)
}

async function each(step: Of<'each'>, bench: ScriptBench, at: string): Promise<void> {
  const whole = bench.piece
  if (!whole || !bench.range) return
  const size =
    step.of === 'sector'
      ? bench.sectorBytes
      : step.of === 'page'
        ? bench.pageBytes
        : (step.bytes ?? whole.length)
  const count = Math.ceil(whole.length / size)
  for (let index = 0; index < count; index++) {
    const address = whole.address + index * size
    const length = Math.min(size, whole.address + whole.length - address)
    if (bench.abandon?.raised) {
      throw writeAbandoned(bench.thing, address - bench.range.address, 'the unit holds a part of the image')
    }
    await tryPiece(step, bench, at, { address, length }, index, count)
    const done = address + length - bench.range.address
    const sectors = bench.operation === 'erase'
    await bench.report({
      done: sectors ? index + 1 : done,
      total: sectors ? count : bench.range.length,
      unit: sectors ? 'sectors' : 'bytes',
      retries: bench.retries,
    })
  }
  bench.piece = whole
  setPiece(bench, whole)
}

/** The values of a piece of the range. */
export function setPiece(bench: ScriptBench, piece: { address: number; length: number }): void {
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

async function tryPiece(
  step: Of<'each'>,
  bench: ScriptBench,
  at: string,
  piece: { address: number; length: number },
  index: number,
  count: number,
): Promise<void> {
  const { writeTries } = bench.script
  const passing = ['unit-refused-for-now', 'frame-broken', ...(writeTries ? ['no-answer'] : [])]
  for (let attempt = 1; ; attempt++) {
    setPiece(bench, piece)
    Object.assign(bench.slots, { index, number: index + 1, count })
    try {
      return await runSteps(step.steps, bench, at)
    } catch (error) {
      const last = attempt >= (writeTries ?? 3) || bench.clock.now() >= bench.deadlineAt
      if (last || !passing.some((kind) => isProblem(error, kind))) throw error
      bench.retries++
      bench.tell({ at, says: `again: ${(error as Problem).facts.says}` })
      await bench.stream.discard()
    }
  }
}

async function transfer(step: Of<'transfer'>, bench: ScriptBench, at: string): Promise<void> {
  const port = bench.stream.asPort()
  const bytes = pieceBytes(bench)
  const base = (bench.piece?.address ?? 0) - (bench.range?.address ?? 0)
  const total = bench.range?.length ?? bytes.length
  const before = bench.retries
  const report = ({ done, retries }: { done: number; retries: number }) => {
    bench.retries = before + retries
    return bench.report({ done: base + done, total, unit: 'bytes', retries: bench.retries })
  }
  const form = {
    blockBytes: step.by === 'xmodem' ? (128 as const) : (1024 as const),
    padByte: step.padByte ?? 0xff,
    report,
    ...(bench.abandon ? { abandon: bench.abandon } : {}),
    ...(step.withinMs ? { startTimeoutMs: step.withinMs } : {}),
  }
  bench.tell({ at, says: `${step.by}, ${bench.into ? 'taken in' : `${bytes.length} bytes`}` })
  if (bench.into) return takeIn(step, bench, at)
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
        if (bench.abandon?.raised)
          throw writeAbandoned(bench.thing, base + from, 'the unit holds a part of the image')
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
async function takeIn(step: Of<'transfer'>, bench: ScriptBench, at: string): Promise<void> {
  const port = bench.stream.asPort()
  const wanted = bench.piece?.length ?? 0
  if (step.by === 'plain') {
    const ms = (step.withinMs ?? 1000) + wireMs(wanted, port.settings)
    const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
    const whole = new Uint8Array(wanted)
    for (let from = 0; from < wanted;) {
      const bytes = bench.clock.now() > until ? null : await bench.stream.some(until)
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
  step: Of<'transfer'>,
  bench: ScriptBench,
  at: string,
  report: (progress: { done: number; retries: number }) => Promise<void> | void,
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
    if (bench.abandon?.raised) throw writeAbandoned(bench.thing, done, 'the unit holds a part of the image')
    for (let attempt = 1; ; attempt++) {
      bench.lastSent = JSON.stringify(line.slice(0, 40))
      bench.stream.forget()
      await bench.stream.port.write(asciiBytes(line + (step.lineEnd ?? '\r\n')))
      if (!patterns) break
      try {
        if (await awaitOne(patterns, step.withinMs ?? 2000, bench, at)) break
        throw noAnswer(bench, at, awaitedText(patterns), step.withinMs ?? 2000)
      } catch (error) {
        // A line that was refused for now is sent again: it says its own address, so that twice is once.
        const passing = isProblem(error, 'unit-refused-for-now') || isProblem(error, 'no-answer')
        if (!passing || attempt >= (bench.script.writeTries ?? 3)) throw error
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

async function dump(step: Of<'dump'>, bench: ScriptBench, at: string): Promise<void> {
  const pattern = [compilePattern({ text: step.line })]
  const { piece } = bench
  if (!piece) return
  while (bench.filled < piece.length) {
    const found = await awaitOne(pattern, step.withinMs, bench, at)
    if (!found) throw noAnswer(bench, at, `a line ${pattern[0]!.says}`, step.withinMs)
    const row = found.slots['row']
    // Half a byte is none: what stood there was no row of bytes.
    if (!(row instanceof Uint8Array) || row.length === 0) continue
    const line = found.slots['at']
    if (typeof line !== 'number') put(bench, row)
    else if (line >= piece.address && line < piece.address + piece.length) {
      const offset = line - piece.address
      if (offset > bench.filled) {
        throw new Problem({
          kind: 'dump-gap',
          thing: bench.thing,
          place: { at },
          says: 'a line of the dump is missing',
          expected: hexNumber(piece.address + bench.filled, 8),
          found: hexNumber(line, 8),
          remedy: 'It is read again. Where it stays so: a slower speed, or flow control.',
        })
      }
      put(bench, row, offset)
    }
    await bench.report({
      done: piece.address - (bench.range?.address ?? 0) + Math.min(bench.filled, piece.length),
      total: bench.range?.length ?? piece.length,
      unit: 'bytes',
      retries: bench.retries,
    })
  }
}

async function frame(step: Of<'frame'>, bench: ScriptBench, at: string): Promise<void> {
  const { dialect } = bench
  if (!dialect) throw new RangeError('a frame step, and the link describes no frame')
  const payload = fillSlots(readEither({ bytes: step.bytes }), bench.slots)
  const patterns = bench.compiled(step.answer)
  const tries = dialect.form.tries ?? 3
  bench.lastSent = heardText(payload, 24)
  for (let attempt = 1; ; attempt++) {
    const out = encodeFrame(dialect, payload, bench.sequence)
    await bench.stream.discard()
    await bench.stream.port.write(out)
    bench.tell({ at, says: 'sent', sent: out })
    try {
      const answer = await readFrame(bench, step.withinMs, at, out)
      for (const pattern of patterns) {
        const slots = matchHead(pattern, answer)
        if (!slots) continue
        if (pattern.means === 'refused' || pattern.means === 'again') {
          throw refused(bench, at, String(slots['reason'] ?? pattern.says), pattern.means === 'again')
        }
        bench.sequence++
        Object.assign(bench.slots, slots)
        takeData(bench, slots)
        bench.tell({ at, says: `${pattern.says} came`, heard: answer })
        return
      }
      throw refused(bench, at, heardText(answer, 24), false)
    } catch (error) {
      const passing = ['no-answer', 'frame-broken', 'unit-refused-for-now'].some((kind) =>
        isProblem(error, kind),
      )
      if (!passing || attempt >= tries || bench.clock.now() >= bench.deadlineAt) throw error
      bench.retries++
    }
  }
}

/** The payload of the next whole frame. @throws Problem `no-answer`, `frame-broken`. */
async function readFrame(bench: ScriptBench, ms: number, at: string, sent: Uint8Array): Promise<Uint8Array> {
  const dialect = bench.dialect!
  const until = Math.min(bench.clock.now() + ms, bench.deadlineAt)
  const { form, delimiter, head, tail } = dialect
  const longest = head + tail + form.mostPayload
  let held: number[] = []
  let echo = form.echo ?? false
  for (;;) {
    const bytes = await bench.stream.some(until)
    if (!bytes || bench.clock.now() > until) throw noAnswer(bench, at, 'a frame', ms)
    for (const [index, byte] of bytes.entries()) {
      let whole: Uint8Array | null = null
      if (delimiter !== null) {
        if (byte !== delimiter) {
          // Twice the longest at most: every byte may be stuffed.
          if (held.length < 2 * longest + 2) held.push(byte)
          continue
        }
        if (held.length === 0) continue
        whole = unstuff(Uint8Array.from(held), form.escape as 'slip' | 'hdlc')
        held = []
      } else {
        held.push(byte)
        let end = frameEnd(dialect, Uint8Array.from(held))
        // No frame begins here: from the next byte on.
        while (end === -1 && held.length > 0) {
          held.shift()
          end = frameEnd(dialect, Uint8Array.from(held))
        }
        if (end === null || held.length < end) continue
        whole = Uint8Array.from(held)
        held = []
      }
      if (echo && whole && echoes(whole, sent, delimiter !== null, form.escape)) {
        echo = false
        continue
      }
      bench.stream.giveBack(bytes.subarray(index + 1))
      const read = whole ? decodeFrame(dialect, whole) : { fault: 'an escape in it stands before nothing' }
      if ('fault' in read) throw brokenFrame(bench.thing, read.fault)
      return read.payload
    }
  }
}

const echoes = (whole: Uint8Array, sent: Uint8Array, delimited: boolean, escape: string): boolean => {
  if (!delimited) return equalBytes(whole, sent)
  const bare = unstuff(sent.subarray(1, -1), escape as 'slip' | 'hdlc')
  return bare !== null && equalBytes(whole, bare)
}
