import {
  type Component,
  type LinkScript,
  type OperationName,
  applicationRegions,
  compilePattern,
  type Compiled,
} from '../../family'
import { firstDifference, hexNumber, isProblem, Problem, type Clock } from '../../kernel'
import { readBackVerification, type Verification } from '../check'
import type { Abandon, Loader, LoaderAbilities, Range, Report } from '../loader'
import type { Person } from '../person'
import type { Port, SerialSettings } from '../port'
import { retryPassing } from '../retry-passing'
import { triesOf, type ScriptBench, type ScriptEvent } from './bench'
import { frameDialect } from './frame'
import { setPiece } from './pieces'
import { runSteps } from './run-steps'
import { scriptLongestMs } from './script-time'
import { Stream } from './stream'

/** What an operation is asked about. */
export interface Asked {
  range?: Range
  /** Bytes that are sent or compared, of the whole range. */
  image?: Uint8Array
  /** Where bytes go that are read. */
  into?: Uint8Array
  report?: Report
  abandon?: Abandon
  slots?: Record<string, string | number>
}

/** What came of an operation. */
export interface Done {
  lines: string[]
  compared: ScriptBench['compared']
  retries: number
}

/** A link as its script drives it: one operation at a time, each from its own beginning. */
export interface ScriptDriver {
  readonly script: LinkScript
  has(name: OperationName): boolean
  /** @throws Problem that names the step, what was sent, awaited and heard. */
  run(name: OperationName, asked?: Asked): Promise<Done>
}

/** What a script says of what it can, before the link is opened. */
export function scriptAbilities({ operations, resumes }: LinkScript): LoaderAbilities {
  return {
    read: operations.read !== undefined,
    erase: operations.erase !== undefined,
    verify: operations.check ? 'checksum' : operations.read ? 'read-back' : 'version-only',
    resume: resumes ?? false,
  }
}

/**
 * @param port open, with the link's settings.
 * @param pageLine shows a value as a line of the unit's page.
 * @param trace is told of every step that sends or hears.
 * @param person who is beside the unit now.
 */
export function scriptDriver(
  port: Port,
  clock: Clock,
  script: LinkScript,
  component: Component,
  settings: SerialSettings,
  pageLine: (field: string, value: string) => string[],
  trace: (event: ScriptEvent) => void = () => {},
  person: () => Person | null = () => null,
): ScriptDriver {
  const compiled = new WeakMap<readonly object[], readonly Compiled[]>()
  const dialect = script.frame ? frameDialect(script.frame) : null
  const region = applicationRegions(component)[0]
  const { sectorBytes = 1024, pageBytes = 256 } = region ?? {}
  let sequence = 0
  const typed = new Map<string, string>()
  return {
    script,
    has: (name) => script.operations[name] !== undefined,
    async run(name, asked = {}) {
      const operation = script.operations[name]
      if (!operation) throw new TypeError(`the link has no operation ${name}`)
      const { range = null, image = null, into = null } = asked
      const startedAt = clock.now()
      const form = { script, settings, bytes: range?.length ?? 0, sectorBytes, pageBytes }
      const bench: ScriptBench = {
        operation: name,
        script,
        stream: new Stream(port, clock),
        clock,
        thing: port.name,
        startedAt,
        deadlineAt: startedAt + scriptLongestMs(operation, form),
        slots: {
          component: component.id,
          ...(script.staging === undefined ? {} : { staging: script.staging }),
          ...asked.slots,
        },
        dialect,
        sectorBytes,
        pageBytes,
        range,
        image,
        piece: range,
        into,
        filled: 0,
        lines: [],
        compared: [],
        sequence,
        retries: 0,
        lastSent: '',
        secrets: [],
        typed,
        person: person(),
        report: asked.report ?? (() => {}),
        abandon: asked.abandon ?? null,
        compiled(patterns) {
          let known = compiled.get(patterns)
          if (!known) {
            known = (patterns as Parameters<typeof compilePattern>[0][]).map(compilePattern)
            compiled.set(patterns, known)
          }
          return known
        },
        tell: (event) => trace({ ...event, ms: clock.now() - startedAt }),
        pageLine,
      }
      await bench.stream.discard()
      if (range) {
        bench.slots['size'] = range.length
        setPiece(bench, range)
      }
      try {
        // Pieces are tried again by themselves; what one command reads, with that command.
        const inPieces = operation.steps.some((step) => step.do === 'each')
        await retryPassing(() => runSteps(operation.steps, bench, name), {
          tries: name === 'read' && !inPieces ? triesOf(script) : 1,
          passing: ['dump-gap'],
          onRetry() {
            bench.retries++
            bench.filled = 0
          },
        })
      } catch (error) {
        // It may have been mistyped: it is asked for anew.
        typed.clear()
        throw error
      } finally {
        sequence = bench.sequence
      }
      return { lines: bench.lines, compared: bench.compared, retries: bench.retries }
    },
  }
}

/** The bootloader that a script describes. What it has no operation for it cannot, and `can` says so. */
export function scriptLoader(driver: ScriptDriver, thing: string): Loader {
  const { script } = driver
  const unlocked = async () => {
    if (driver.has('unlock')) await driver.run('unlock')
  }
  const transfer = async (
    name: 'write' | 'dryRun',
    address: number,
    bytes: Uint8Array,
    report: Report,
    abandon: Abandon,
    from = 0,
  ) => {
    await unlocked()
    const image = bytes.subarray(from)
    const shifted: Report = ({ done, retries, unit }) =>
      unit === 'bytes' ? report({ done: from + done, total: bytes.length, unit, retries }) : undefined
    const { retries } = await driver.run(name, {
      range: { address: address + from, length: image.length },
      image,
      report: shifted,
      abandon,
    })
    await report({ done: bytes.length, total: bytes.length, unit: 'bytes', retries })
  }
  const read = async (range: Range, report: Report) => {
    const into = new Uint8Array(range.length)
    await driver.run('read', { range, into, report })
    return into
  }

  return {
    can: scriptAbilities(script),
    async attach() {
      if (!driver.has('attach')) return
      try {
        await driver.run('attach')
      } catch (error) {
        if (!isProblem(error, 'no-answer') && !isProblem(error, 'unit-refused')) throw error
        throw new Problem({
          kind: 'no-bootloader',
          thing,
          says: 'the bootloader does not answer',
          ...(error.facts.expected ? { expected: error.facts.expected } : {}),
          found: error.facts.found ?? 'silence',
          remedy: 'The unit is unchanged. Enter the bootloader again; after that check the wiring.',
        })
      }
    },
    identify: async () => (driver.has('identify') ? (await driver.run('identify')).lines : []),
    ...(driver.has('read') && { read }),
    async erase(range, report) {
      if (!driver.has('erase')) return
      await unlocked()
      await driver.run('erase', { range, report })
    },
    write: (address, bytes, report, abandon, from = 0) =>
      transfer('write', address, bytes, report, abandon, script.resumes ? from : 0),
    ...(driver.has('dryRun') && {
      rehearse: (address: number, bytes: Uint8Array, report: Report, abandon: Abandon) =>
        transfer('dryRun', address, bytes, report, abandon),
    }),
    verify: (address, bytes) => verifyBy(driver, address, bytes, read),
    async startApplication() {
      if (driver.has('start')) await driver.run('start')
    },
  }
}

/** True where an operation asks about a range that it is told: it can be asked about each half by itself. */
const tellsRange = (script: LinkScript): boolean =>
  /\{(length|end|last|size)[:}]/.test(JSON.stringify(script.operations.check ?? null))

async function verifyBy(
  driver: ScriptDriver,
  address: number,
  bytes: Uint8Array,
  read: (range: Range, report: Report) => Promise<Uint8Array>,
): Promise<Verification> {
  if (bytes.length === 0) return { outcome: 'not-comparable', expected: 'bytes to compare', found: 'none' }
  if (driver.has('check')) {
    // Over an image that ends in its own CRC the sum of the whole is the same for every such image: each half by itself.
    const middle = tellsRange(driver.script) ? (bytes.length >> 1) & ~3 : 0
    const parts = [
      { at: 0, part: bytes.subarray(0, middle) },
      { at: middle, part: bytes.subarray(middle) },
    ].filter(({ part }) => part.length > 0)
    const sums = []
    for (const { at, part } of parts) {
      const range = { address: address + at, length: part.length }
      sums.push(...(await driver.run('check', { range, image: part })).compared)
    }
    const expected = sums.map((sum) => sum.expected).join(' and ')
    const found = sums.map((sum) => sum.found || 'none').join(' and ')
    const answered = sums.length > 0 && sums.every((sum) => sum.found !== '')
    const equal = answered && sums.every((sum) => sum.expected === sum.found)
    return {
      outcome: equal ? 'equal-checksum' : answered ? 'different' : 'not-comparable',
      by: sums[0]?.name ?? 'checksum',
      expected: `${expected} over ${bytes.length} bytes`,
      found: answered ? `${found} over ${bytes.length} bytes` : 'no checksum',
    }
  }
  if (driver.has('read')) {
    const back = await read({ address, length: bytes.length }, () => {})
    return readBackVerification(
      firstDifference(bytes, back),
      bytes,
      (offset) => `0x${hexNumber(address + offset, 8)}`,
    )
  }
  return {
    outcome: 'version-only',
    expected: 'the version after the restart',
    found: 'this link compares nothing',
  }
}
