import type { Family } from '../family'
import { verdictOf } from '../kernel'
import type { Gate } from './gate'
import { judgePower, setupOf, type BenchSay, type PowerAnswer, type Stretch } from './power'
import { judgeLaptop } from './sums'
import { judgeSupply } from './supply-floor'

/**
 * The power of a job, by all that is known: the supply's description where there is one, else the measurement alone.
 * Page and server call this same function.
 * @param metered volts that a meter shows now; they outweigh what was typed.
 */
export function judgeJobPower(
  power: Family['power'],
  said: BenchSay,
  stretches: readonly Stretch[],
  metered: number | null,
): PowerAnswer | null {
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
  })
}

/** Supply and laptop, as gates. */
export function benchGates(
  power: Family['power'],
  said: BenchSay,
  stretches: readonly Stretch[],
  metered: number | null,
): Gate[] {
  const answer = judgeJobPower(power, said, stretches, metered)
  const supply = answer?.gate ?? judgeSupply(power, metered ?? said.measured?.volts ?? null)
  const runMs = stretches.reduce((sum, { ms }) => sum + ms, 0)
  const { laptop } = said
  const finding = judgeLaptop({
    onMains: laptop?.onMains ?? false,
    minutesLeft: laptop?.minutesLeft ?? null,
    runMs,
  })
  // What nobody has said of the laptop is a reminder; what was said is judged.
  const findings = [laptop || finding.level === 'go' ? finding : { ...finding, level: 'note' as const }]
  return [
    supply,
    { id: 'laptop', name: 'Laptop', verdict: verdictOf(findings), findings, numbers: finding.numbers ?? {} },
  ]
}
