import * as v from 'valibot'
import { LineSettings } from '../../family'
import { fitsBytes, isProblem, Problem, readQuantity, type Clock } from '../../kernel'
import type { Port } from '../port'
import { PageScript, shownLines } from '../script'
import { scpiMeter, type Meter } from './scpi'

/*
 * The meter of a bench: whatever stands at a serial port and says volts. An instrument that speaks SCPI is asked in it; any
 * other by a script with one operation, `page`, that tells the line `volts`.
 */

/** The line of a meter's page that a script tells. */
export const voltsField = 'volts'
/** SCPI-1999, volume 2, MEASure subsystem: a voltage, direct where nothing else is said. */
const scpiQuery = 'MEAS:VOLT?'

const ScriptOfMeter = v.pipe(
  PageScript,
  v.check(
    ({ operations }) =>
      operations.page?.steps.some((step) => step.do === 'tell' && step.field === voltsField) ?? false,
    'Its page tells the line "volts": {"do":"tell","field":"volts","value":"{volts}"}',
  ),
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
  script: PageScript,
  line: BenchMeter['line'],
  port: Port,
  clock: Clock,
): Promise<number | null> {
  try {
    const text = (await shownLines(script, line, port, clock)).get(voltsField) ?? ''
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
