import { drivenLink, type Family } from '../family'
import type { WorkshopRules } from '../fit'
import { heaviestFirst, verdictOf, type Finding } from '../kernel'
import type { BenchInputs } from './bench-inputs'
import type { Gate } from './gate'
import { judgeIsolation } from './isolation'
import { judgePowerOrder } from './power-order'
import { judgeWiring, linkOfJob, type Adapter } from './wiring'

/** What a link is judged by before a port is opened. */
export interface LinkAsked {
  family: Family
  said: BenchInputs
  adapters: readonly Adapter[]
  workshopRules: WorkshopRules
  /** ms since 1970. */
  now: number
  /** True where the chosen port is a stand-in: nothing is joined to it. */
  standIn: boolean
}

/** What nobody has said yet, and what does not matter while nothing is joined. */
const unsaidOnStandIn: ReadonlySet<string> = new Set([
  'adapter-chosen',
  'alone-on-bus',
  'address-switch',
  'kit-packed',
])

/** Isolation as it is now: what came back after the job is joined again, and a count from before is worth nothing. */
export function isolationNow({ isolation, back = [] }: BenchInputs): BenchInputs['isolation'] {
  const { scanned: _scanned, alone: _alone, ...rest } = isolation ?? {}
  const off = isolation?.unplugged?.filter((id) => !back.includes(id))
  return off && off.length < isolation!.unplugged!.length ? { ...rest, unplugged: off } : isolation
}

/** Wiring and isolation of a job, as its link rests on them. */
export function judgeLinkBench({ family, said, adapters, workshopRules, now, standIn }: LinkAsked): Gate[] {
  const gates = [
    judgeWiring(family, adapters, said.wiring, workshopRules),
    judgeIsolation(family, isolationNow(said), now, linkOfJob(family, said.wiring)),
  ]
  return standIn ? gates.map((gate) => onStandIn(gate)) : gates
}

/**
 * PRACTICE D4, D6, D7, D8, F1, F4: what has to stand before the link is opened, be it only to read the unit. Order of
 * power first, then wiring, then isolation; no gate where the program opens no link of its own.
 */
export function gatesBeforeLink(asked: LinkAsked): Gate[] {
  const { family, said, standIn } = asked
  // While nobody said which link it is, the one that would be opened is judged.
  if (!drivenLink(family, said.wiring && linkOfJob(family, said.wiring).id)) return []
  const order = judgePowerOrder(family, said.order ?? [], false)
  return [standIn ? onStandIn(order, ['power-order']) : order, ...judgeLinkBench(asked)]
}

/**
 * What shuts the link, heaviest first; empty where it may be opened.
 * @param passed rules whose hold a person let pass by name; a stop never passes.
 */
export function shutLink(gates: readonly Gate[], passed: readonly string[] = []): Finding[] {
  return heaviestFirst(gates.flatMap(({ findings }) => findings)).filter(
    ({ level, rule }) => level === 'stop' || (level === 'hold' && !passed.includes(rule)),
  )
}

/** What nobody has said yet of a bench that is only simulated is a reminder; what was said wrong stays wrong. */
export function onStandIn(gate: Gate, more: readonly string[] = []): Gate {
  const findings = gate.findings.map((finding): Finding =>
    (finding.level === 'hold' && unsaidOnStandIn.has(finding.rule)) ||
    (finding.level !== 'go' && more.includes(finding.rule))
      ? { ...finding, level: 'note', because: `The port is a stand-in. ${finding.because}` }
      : finding,
  )
  return { ...gate, findings, verdict: verdictOf(findings) }
}
