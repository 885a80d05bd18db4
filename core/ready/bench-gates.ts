import { drivenLink, type Family } from '../family'
import type { WorkshopRules } from '../fit'
import { verdictOf, type Finding } from '../kernel'
import { judgeLinkBench, onStandIn } from './before-link'
import type { BenchInputs } from './bench-inputs'
import type { Gate } from './gate'
import { judgeKit, type KitEntry } from './kit'
import { judgeLaptopFor, type LaptopTask } from './laptop-gate'
import {
  judgeGenerator,
  judgeLeadOf,
  judgePower,
  setupOf,
  type PowerAnswer,
  type Stretch,
  type SupplySay,
} from './power'
import { judgePowerOrder } from './power-order'
import { judgeSupply, measureText } from './supply-floor'
import { linkOfJob, type Adapter } from './wiring'

/** All that the bench of a job is judged by. */
export interface BenchAsked {
  family: Family
  said: BenchInputs
  stretches: readonly Stretch[]
  /** Volts that a meter shows now; they outweigh what was typed. */
  metered: number | null
  adapters: readonly Adapter[]
  workshopRules: WorkshopRules
  kit: readonly KitEntry[]
  /** Day of the job and today, `2026-11-24`. */
  day: string
  today: string
  /** ms since 1970. */
  now: number
  /** Runs that go on meanwhile: the laptop carries them too. */
  underWay?: readonly LaptopTask[]
  /** True where the chosen port is a stand-in: nothing is joined to it, and nothing carried there. */
  standIn: boolean
}

/**
 * The power of a job, by all that is known: the supply's description where there is one, else the measurement alone.
 * Page and server call this same function.
 * @param metered volts that a meter shows now; they outweigh what was typed.
 */
export function judgeJobPower(
  family: Pick<Family, 'power' | 'powerOrder'>,
  said: SupplySay,
  stretches: readonly Stretch[],
  metered: number | null,
): PowerAnswer | null {
  const { power } = family
  const setup = setupOf(power, said)
  if (!setup || stretches.length === 0) return null
  const typed = said.measured ?? null
  const then = typed && setupOf(power, { ...said, shed: typed.shed, charger: typed.charger })
  return judgePower({
    setup,
    stretches,
    floorVolts: power.floorVolts,
    ceilingVolts: power.ceilingVolts,
    measuredVolts: metered ?? typed?.volts ?? null,
    ...(metered === null && then ? { measuredWith: then } : {}),
    idleAmps: power.amps.idle,
    measure: measureText(family),
  })
}

/** Supply, laptop, order of power, wiring, isolation and kit, as gates. Page and server call this same function. */
export function benchGates(asked: BenchAsked): Gate[] {
  const { family, said, stretches, metered, adapters, workshopRules, kit, day, today, now, standIn } = asked
  const ownMs = stretches.reduce((sum, { ms }) => sum + ms, 0)
  const answer = judgeJobPower(family, said, stretches, metered)
  const supply = withFindings(
    answer?.gate ?? judgeSupply(family, metered ?? said.measured?.volts ?? null, said.chemistry),
    [...judgeLeadOf(family.power, said), ...judgeGenerator(family.power, said.generator)],
  )
  const inRun = drivenLink(family, linkOfJob(family, said.wiring).id) !== undefined
  const carried = judgeKit(kit, day, today)
  return [
    supply,
    judgeLaptopFor(said.laptop, ownMs, asked.underWay ?? [], now),
    judgePowerOrder(family, said.order ?? [], inRun),
    ...judgeLinkBench({ family, said, adapters, workshopRules, now, standIn }),
    standIn ? onStandIn(carried) : carried,
  ]
}

/** A gate with more judged in it. */
function withFindings(gate: Gate, more: readonly Finding[]): Gate {
  if (more.length === 0) return gate
  const findings = [...gate.findings, ...more]
  return { ...gate, findings, verdict: verdictOf(findings) }
}
