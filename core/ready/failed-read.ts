import { Problem } from '../kernel'
import type { Gate } from './gate'

/** What came back was no answer that holds: two speak at once, or the bits are read wrong. */
const garbled: ReadonlySet<string> = new Set(['modbus-frame', 'modbus-other', 'kwp-frame', 'kwp-echo'])
/** Nothing came back. */
const silent: ReadonlySet<string> = new Set([
  'modbus-silent',
  'uds-silent',
  'kwp-no-wake',
  'slcan-silent',
  'no-answer',
])

/** Where to look, in the order of the likeliest (PRACTICE F1, F2, F4, D6; common practice). */
const order = {
  garbled: { gates: ['isolation', 'wiring', 'order'], says: 'Two units that speak at the same time.' },
  silent: {
    gates: ['order', 'wiring', 'isolation'],
    says: 'No power, transmit and receive swapped, or a bad contact, in that order of ease to check.',
  },
} as const

/**
 * A reading that failed, with its likely cause and the tick that mends it: the first thing before the link that is not
 * plainly right, a reminder on a stand-in and a hold that was let pass among them.
 * @param gates what was judged before the link was opened.
 * @returns the same problem where its kind tells nothing of the bench.
 */
export function withLikelyCause(problem: Problem, gates: readonly Gate[]): Problem {
  const kind = problem.facts.kind
  const look = garbled.has(kind) ? order.garbled : silent.has(kind) ? order.silent : null
  if (!look) return problem
  const open = look.gates
    .flatMap((id) => gates.find((gate) => gate.id === id)?.findings ?? [])
    .find(({ level }) => level !== 'go')
  return new Problem({
    ...problem.facts,
    remedy: [
      problem.facts.remedy,
      `Likely: ${look.says}`,
      ...(open ? [`Look first here: ${open.says} ${open.remedy ?? ''}`.trim()] : []),
    ].join(' '),
  })
}
