import type { LinkStep, SlotValue } from '../../family'
import { lineText } from '../port'
import { Problem, asciiBytes, bytesOfHex, hexNumber } from '../../kernel'
import { writeAbandoned } from '../loader'
import { keyOfSeed } from '../uds'
import { pieceBytes, type ScriptBench } from './bench'
import { checksumBits, checksumOf, checksumText } from './checksum'
import { awaitedText, awaitOne, expect, page, pause, send, slotText } from './exchange'
import { noAnswer, stepText } from './failures'
import { exchangeFrame } from './frame-exchange'
import { each } from './pieces'
import { dump, transfer } from './transfers'

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
      const { do: _, flow, ...changed } = step
      const { port } = bench.stream
      const { flow: before, ...settings } = { ...port.settings, ...changed }
      const held = flow ?? before
      // Not closed: a board that is reset by a control line would begin anew.
      await port.open({ ...settings, ...(held === undefined || held === 'none' ? {} : { flow: held }) })
      bench.tell({ at, says: `${lineText(port.settings)} from here on` })
      return
    }
    case 'wait':
      return pause(bench, step.ms)
    case 'ask':
      return ask(step, bench, at)
    case 'page':
      return page(step, bench, at)
    case 'tell':
      bench.lines.push(...bench.pageLine(step.field, slotText(step.value, bench)))
      return
    case 'each':
      return each(step, bench, at, runSteps)
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
      return exchangeFrame(step, bench, at)
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

/** A person takes the time that they take: no deadline runs meanwhile. */
async function ask(
  { says, caution, into, as = 'text' }: Of<'ask'>,
  bench: ScriptBench,
  at: string,
): Promise<void> {
  if (!bench.person) {
    throw new Problem({
      kind: 'nobody-to-ask',
      thing: bench.thing,
      place: { at },
      says: `${stepText(at)} wants a person, and nobody is asked here`,
      expected: says,
      remedy: 'Do it in a run or a practice run: there the program asks and waits.',
    })
  }
  bench.tell({ at, says: `asked: ${says}` })
  const before = bench.clock.now()
  const asked = { says, ...(caution === undefined ? {} : { caution }) }
  if (into === undefined) await bench.person.ask(asked)
  else {
    const typed = bench.typed.get(says) ?? (await bench.person.type({ ...asked, as }))
    bench.typed.set(says, typed)
    const bytes = as === 'hex' ? bytesOfHex(typed) : asciiBytes(typed)
    if (bytes.length > 0) bench.secrets.push(bytes)
    bench.slots[into] = as === 'hex' ? bytes : typed
  }
  bench.deadlineAt += bench.clock.now() - before
}

/** What a unit gave as its sum, as digits; empty where it gave none. */
function sumText(value: SlotValue | undefined, digits: number): string {
  if (value === undefined) return ''
  if (typeof value === 'number') return hexNumber(value, digits)
  if (value instanceof Uint8Array) return [...value].map((byte) => hexNumber(byte, 2)).join('')
  return value.toUpperCase().replace(/^0X/, '').padStart(digits, '0')
}

async function repeat(step: Of<'repeat'>, bench: ScriptBench, at: string): Promise<void> {
  const until = bench.compiled(step.until)
  if (step.says !== undefined) await bench.person?.tell(step.says)
  for (let time = 0; time < step.times && bench.clock.now() < bench.deadlineAt; time++) {
    if (bench.abandon?.raised) throw writeAbandoned(bench.thing, bench.filled, 'the unit stays as it is')
    await runSteps(step.steps, bench, at)
    if (await awaitOne(until, step.everyMs, bench, at)) return
  }
  throw noAnswer(bench, at, awaitedText(until), bench.clock.now() - bench.startedAt)
}
