import { asciiText, hexOf, Problem } from '../../kernel'
import { writeAbandoned } from '../loader'
import type { ScriptBench } from './bench'

/** Bytes as a person reads them: as text where they are one, else as pairs of digits. */
export function heardText(bytes: Uint8Array, max = 60): string {
  if (bytes.length === 0) return 'silence'
  const part = bytes.length > max ? bytes.subarray(bytes.length - max) : bytes
  const text = asciiText(part)
  const readable = [...part].filter((byte) => (byte >= 32 && byte < 127) || byte === 13 || byte === 10).length
  if (readable * 10 >= part.length * 9) return JSON.stringify(text)
  return hexOf(part).replace(/(..)(?=.)/g, '$1 ')
}

/** Bytes as a sentence may show them: what a person typed, and a unit may echo, stands in none. */
export const shownText = (bench: Pick<ScriptBench, 'secrets'>, bytes: Uint8Array, max?: number): string =>
  bench.secrets.some((secret) => asciiText(bytes).includes(asciiText(secret)))
    ? 'what was typed'
    : heardText(bytes, max)

/** Names a step as a person counts: `write.0.2` is "step 3 in step 1 of write". */
export function stepText(at: string): string {
  const [operation, ...steps] = at.split('.')
  const counted = steps.reverse().map((step) => `step ${Number(step) + 1}`)
  return `${counted.join(' in ')} of ${operation}`
}

/** What was awaited did not come. */
export function noAnswer(bench: ScriptBench, at: string, awaited: string, ms: number): Problem {
  return new Problem({
    kind: 'no-answer',
    thing: bench.thing,
    place: { at },
    says: `the unit did not answer at ${stepText(at)} within ${Math.round(ms)} ms${bench.lastSent ? `, asked ${bench.lastSent}` : ''}`,
    expected: awaited,
    found: shownText(bench, bench.stream.heard()),
    remedy:
      'Check in this order: transmit and receive swapped, a bad contact, the unit without power, the wrong speed; then the words in the profile.',
  })
}

/** The unit said no; `again` where another try may help. */
export function refused(bench: ScriptBench, at: string, reason: string, again: boolean): Problem {
  return new Problem({
    kind: again ? 'unit-refused-for-now' : 'unit-refused',
    thing: bench.thing,
    place: { at },
    says: `the unit refused at ${stepText(at)}${bench.lastSent ? `, asked ${bench.lastSent}` : ''}`,
    found: reason,
    remedy: 'Read its reason; what it refused it has not done.',
  })
}

/** @throws Problem `write-abandoned` at a byte, where a person wants the write to end. */
export function refuseAbandoned(bench: ScriptBench, offset: number): void {
  if (bench.abandon?.raised) throw writeAbandoned(bench.thing, offset, 'the unit holds a part of the image')
}
