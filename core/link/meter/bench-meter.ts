import * as v from 'valibot'
import {
  LineSettings,
  linkScriptFaults,
  LinkScript,
  type Component,
  type LinkScript as Script,
} from '../../family'
import { fitsBytes, isProblem, Problem, readQuantity, type Clock } from '../../kernel'
import type { Port } from '../port'
import { scriptDriver } from '../script'
import { scpiMeter, type Meter } from './scpi'

/*
 * The meter of a bench: whatever stands at a serial port and says volts. An instrument that speaks SCPI is asked in it; any
 * other by a script with one operation, `page`, that tells the line `volts`.
 */

/** The line of a meter's page that a script tells. */
export const voltsField = 'volts'
/** SCPI-1999, volume 2, MEASure subsystem: a voltage, direct where nothing else is said. */
const scpiQuery = 'MEAS:VOLT?'
/** A meter reads a supply, and no unit's whole memory: its script is about no range. */
const noMemory = { bytes: 1, sectorBytes: 1, pageBytes: 1 }

const ScriptOfMeter = v.pipe(
  LinkScript,
  v.check(
    ({ operations }) => operations.page !== undefined && Object.keys(operations).length === 1,
    'A meter has one operation: page',
  ),
  v.check(
    ({ operations }) =>
      operations.page?.steps.some((step) => step.do === 'tell' && step.field === voltsField) ?? false,
    'Its page tells the line "volts": {"do":"tell","field":"volts","value":"{volts}"}',
  ),
  v.rawCheck(({ dataset, addIssue }) => {
    if (!dataset.typed) return
    for (const { at, says } of linkScriptFaults(dataset.value, noMemory))
      addIssue({ message: `${at}: ${says}` })
  }),
)

/** A meter of the bench: its port, its line, and how it is asked. */
export const BenchMeter = v.strictObject({
  name: v.pipe(v.string(), v.trim(), v.minLength(1, 'Give the meter a name'), v.maxLength(80)),
  /** The port that it stands at. */
  port: v.pipe(v.string(), v.minLength(1, 'Choose the port that the meter stands at'), v.maxLength(300)),
  line: LineSettings,
  speaks: v.variant('kind', [
    v.strictObject({
      kind: v.literal('scpi'),
      /** What asks for a voltage. */
      query: v.optional(
        v.pipe(
          v.string(),
          v.trim(),
          v.minLength(1),
          v.maxLength(80),
          v.check(fitsBytes, 'A serial line has no such character'),
        ),
        scpiQuery,
      ),
    }),
    v.strictObject({ kind: v.literal('script'), script: ScriptOfMeter }),
  ]),
})
export type BenchMeter = v.InferOutput<typeof BenchMeter>

/** Reads what is written down of a meter. @throws Problem `bench-meter` that names the first faulty field. */
export function readBenchMeter(document: unknown): BenchMeter {
  const { success, output, issues } = v.safeParse(BenchMeter, document)
  if (success) return output
  const [first] = issues
  throw new Problem({
    kind: 'bench-meter',
    place: { at: v.getDotPath(first) ?? 'the meter' },
    says: first.received === 'undefined' ? 'it is missing' : first.message,
    remedy: 'Put this right and save it again.',
  })
}

const itself: Component = {
  id: 'meter',
  name: 'Meter',
  memory: { erasedByte: 255, regions: [] },
  version: { scheme: 'dotted', downgrade: 'held' },
}

/**
 * A meter over its port.
 * @param port open, with the meter's settings.
 */
export function meterOver({ name, line, speaks }: BenchMeter, port: Port, clock: Clock): Meter {
  if (speaks.kind === 'scpi') return { ...scpiMeter(port, { query: speaks.query }), name }
  return { name, volts: () => scriptedVolts(name, speaks.script, line, port, clock) }
}

async function scriptedVolts(
  name: string,
  script: Script,
  line: BenchMeter['line'],
  port: Port,
  clock: Clock,
): Promise<number | null> {
  const driver = scriptDriver(port, clock, script, itself, line, (field, value) =>
    field === voltsField ? [value] : [],
  )
  try {
    const [text = ''] = (await driver.run('page')).lines
    return readQuantity(text, 'volts', { field: voltsField, min: -10_000, max: 10_000 })
  } catch (error) {
    if (isProblem(error, 'no-answer')) return null
    if (!isProblem(error, 'quantity')) throw error
    throw new Problem({
      kind: 'meter-number',
      thing: name,
      says: 'the meter did not answer with a voltage',
      expected: 'a number such as 12.41 or 12.41 V',
      found: error.facts.found ?? 'nothing',
      remedy: 'Set the meter to direct voltage; then look at what its answer is taken for.',
    })
  }
}

/** How a meter is asked in words of its own: what is sent, and the line that carries the volts. */
export interface MeterWords {
  /** Empty where the meter talks by itself. */
  sends: string
  lineEnd: '' | '\r' | '\n' | '\r\n'
  /** The line with {volts}: `V={volts}`. */
  answer: string
  withinMs: number
}

/** The script of a meter that is asked by one line and answers by one. */
export function meterScript({ sends, lineEnd, answer, withinMs }: MeterWords): Script {
  return {
    speaks: 'script',
    operations: {
      page: {
        steps: [
          ...(sends === '' ? [] : [{ do: 'send' as const, text: sends + lineEnd }]),
          { do: 'expect', patterns: [{ line: answer }], withinMs },
          { do: 'tell', field: voltsField, value: '{volts}' },
        ],
      },
    },
  }
}

/** The words of a script that `meterScript` makes; null for any other, which is changed as a profile is. */
export function meterWords(script: Script): MeterWords | null {
  const steps = script.operations.page?.steps ?? []
  const send = steps.find((step) => step.do === 'send')
  const expect = steps.find((step) => step.do === 'expect')
  const pattern = expect?.patterns[0]
  if (!expect || !pattern || !('line' in pattern)) return null
  const [, sends = '', end = ''] = /^([^\r\n]*)([\r\n]*)$/.exec(send?.text ?? '') ?? []
  const words = {
    sends,
    lineEnd: end as MeterWords['lineEnd'],
    answer: pattern.line,
    withinMs: expect.withinMs,
  }
  return JSON.stringify(meterScript(words)) === JSON.stringify(script) ? words : null
}
