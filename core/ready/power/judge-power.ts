import { durationText, verdictOf, voltsText, type Finding, asSentence } from '../../kernel'
import type { Gate } from '../gate'
import { judgeChargeUsed } from './charge-used'
import { chargerVoltsOf, isChargeable } from './charging'
import { chemistryFacts } from './chemistry'
import { freshSupply } from './fresh-supply'
import { judgeCharger } from './judge-charger'
import { loadsToShed, smallestCharger } from './remedies'
import {
  correctedBy,
  minutesToFloor,
  restVolts,
  supplyCourse,
  type SupplyCourse,
  type SupplySetup,
  type Stretch,
} from './supply'

/** What the supply is judged by. */
export interface PowerQuestion {
  setup: SupplySetup
  /** What the run draws, stretch after stretch. */
  stretches: readonly Stretch[]
  floorVolts: number
  ceilingVolts: number
  /** At the unit's terminals, with the unit idle; null when nobody has measured. */
  measuredVolts: number | null
  /** How the supply stood while it was measured: lamps on, no charger. As it stands now where nothing is said. */
  measuredWith?: SupplySetup
  idleAmps: number
  /** Where and when it is measured, in words. */
  measure?: string
}

/** The verdict on the supply, and the figures it rests on. */
export interface PowerAnswer {
  gate: Gate
  /** The course by which it was judged; null where something is missing. */
  course: SupplyCourse | null
  smallestChargerAmps: number | null
  shed: { id: string; name: string; shed: string; amps: number }[] | null
  minutesToFloor: number | null
}

/** Volts above the floor that a prudent person keeps through the run (common practice). */
export const wantedMarginVolts = 0.2
/** And never more than this share of the floor: a 3.3 V supply that holds its volts has less to lose (common practice). */
const wantedMarginShare = 0.025

/** PRACTICE D1, D2, D5, D10: will the supply hold from the first byte to the last, and what to do if it does not. */
export function judgePower(question: PowerQuestion): PowerAnswer {
  const { setup, stretches, floorVolts, ceilingVolts, measuredVolts, idleAmps } = question
  const missing = missingIn(setup)
  const findings: Finding[] = []
  const answer = (rest: Partial<PowerAnswer> = {}, numbers: Record<string, number> = {}): PowerAnswer => ({
    gate: {
      id: 'power',
      name: 'Power',
      verdict: verdictOf(findings),
      findings,
      numbers: {
        floorVolts,
        ceilingVolts,
        // Apart from what is figured: a page that shows a meter shows this alone.
        ...(measuredVolts === null ? {} : { measuredVolts }),
        ...numbers,
      },
    },
    course: null,
    smallestChargerAmps: null,
    shed: null,
    minutesToFloor: null,
    ...rest,
  })
  if (missing.length > 0) {
    findings.push({
      rule: 'supply-described',
      level: 'hold',
      says: `The supply is not described: ${missing.join(', ')}.`,
      because: 'Without it nobody can say what is left at the last byte.',
      remedy: `Say ${missing.join(' and ')}.`,
    })
    return answer()
  }
  const then = question.measuredWith ?? setup
  const found = measuredVolts === null ? then : correctedBy(then, measuredVolts, idleAmps)
  const corrected = found && { ...setup, source: { ...setup.source, ...chargeOf(found) } }
  if (!corrected) {
    const expected = supplyCourse(then, [{ name: 'idle', ms: 0, unitAmps: idleAmps }]).nowVolts
    findings.push({
      rule: 'measurement-plausible',
      level: 'hold',
      says: `${voltsText(measuredVolts!)} does not go with this supply: it should show about ${voltsText(expected)}.`,
      because: `${chemistryFacts[setup.source.chemistry].name}, ${setup.source.cells} cells, between ${voltsText(restVolts({ ...setup.source, charge: 0 }))} and ${voltsText(restVolts({ ...setup.source, charge: 1 }))} at rest.`,
      remedy: 'Measure again; look at the number of cells and the chemistry.',
    })
    if (measuredVolts! < floorVolts) {
      findings.push({
        rule: 'supply-holds',
        level: 'stop',
        says: `The supply is at ${voltsText(measuredVolts!)}; the floor is ${voltsText(floorVolts)}.`,
        because: 'Whatever feeds it: below the floor nothing is written.',
        remedy: freshSupply(setup.source.chemistry),
        numbers: { supplyVolts: measuredVolts!, floorVolts },
      })
    }
    if (measuredVolts! > ceilingVolts) {
      findings.push({
        rule: 'supply-ceiling',
        level: 'stop',
        says: `The supply is at ${voltsText(measuredVolts!)}, above the ceiling of ${voltsText(ceilingVolts)}.`,
        because: 'Whatever feeds it: above the ceiling the unit is not switched on.',
        remedy: 'Take it off the unit now. Look at how many batteries are in series, and at the charger.',
        numbers: { highestVolts: measuredVolts!, ceilingVolts },
      })
    }
    return answer({}, { supplyVolts: measuredVolts! })
  }
  if (measuredVolts === null) {
    findings.push({
      rule: 'supply-measured',
      level: 'hold',
      says: 'The supply is not measured.',
      because: 'The figures below rest on its description alone.',
      remedy: question.measure ?? 'Measure at the unit’s terminals, with the unit on, and type the volts.',
    })
  }
  const course = supplyCourse(corrected, stretches)
  const { nowVolts, lowestVolts, lastByteVolts } = course
  const margin = lowestVolts - floorVolts
  const chargeable = isChargeable(setup.source.chemistry)
  const itsVolts = chargerVoltsOf(setup)
  const chargerVolts =
    itsVolts === null ? null : (corrected.charger?.volts ?? Math.min(ceilingVolts, itsVolts))
  const minutes = minutesToFloor(
    corrected,
    Math.max(...stretches.map(({ unitAmps }) => unitAmps)),
    floorVolts,
  )
  const charger =
    chargerVolts !== null && margin < 0
      ? smallestCharger(corrected, stretches, floorVolts, chargerVolts)
      : null
  const shed = margin < 0 ? loadsToShed(corrected, stretches, floorVolts) : null
  const numbers = {
    supplyVolts: measuredVolts ?? nowVolts,
    nowVolts,
    lowestVolts,
    lastByteVolts,
    marginVolts: margin,
    ...(minutes === null ? {} : { minutesToFloor: minutes }),
    ...(charger ? { chargerAmps: charger } : {}),
  }
  const took = durationText(stretches.reduce((sum, { ms }) => sum + ms, 0))
  if (margin < 0) {
    const ways = [
      shed && shed.length > 0 ? shed.map(({ shed: how }) => how).join(', then ') : null,
      charger ? `put a charger of ${charger} A on the battery and leave it on` : null,
    ].filter(Boolean)
    findings.push({
      rule: 'supply-holds',
      level: 'stop',
      says: `The supply sags to ${voltsText(lowestVolts)}; the floor is ${voltsText(floorVolts)}.`,
      because: `${voltsText(nowVolts)} at the start, ${voltsText(lastByteVolts)} at the last byte, ${took} of run. A brown-out in the write is the classic way to kill a unit.`,
      remedy:
        ways.length > 0
          ? `${asSentence(ways.join(', or '))}.`
          : chargeable
            ? 'Charge or change the battery; no load and no charger alone holds it.'
            : freshSupply(setup.source.chemistry),
      numbers,
    })
  } else if (margin < Math.min(wantedMarginVolts, floorVolts * wantedMarginShare)) {
    findings.push({
      rule: 'supply-holds',
      level: 'hold',
      says: `The supply holds, with only ${voltsText(margin)} to spare.`,
      because: `Lowest ${voltsText(lowestVolts)}, floor ${voltsText(floorVolts)}, over ${took}.`,
      remedy: chargeable
        ? 'Put a charger on, or shed a load, for a margin that a bad contact does not eat.'
        : freshSupply(setup.source.chemistry),
      numbers,
    })
  } else {
    findings.push({
      rule: 'supply-holds',
      level: 'go',
      says: `The supply holds: ${voltsText(lastByteVolts)} at the last byte, ${voltsText(margin)} above the floor at the lowest.`,
      because: `${voltsText(nowVolts)} at the start, ${took} of run${minutes === null ? '' : `; the floor would be reached after ${Math.round(minutes)} min`}.`,
      numbers,
    })
  }
  for (const judged of [judgeCharger(corrected, stretches), judgeChargeUsed(corrected, stretches)]) {
    // A short run out of a full battery needs no word; what is wrong does.
    if (judged && (judged.level !== 'go' || judged.rule === 'charger-fits')) findings.push(judged)
  }
  const highest = Math.max(...course.points.map(({ volts }) => volts))
  if (highest > ceilingVolts) {
    findings.push({
      rule: 'supply-ceiling',
      level: 'stop',
      says: `The supply rises to ${voltsText(highest)}, above the ceiling of ${voltsText(ceilingVolts)}.`,
      because: corrected.charger
        ? `The charger holds ${voltsText(corrected.charger.volts)}.`
        : 'The source itself stands above it.',
      remedy: 'Set the charger or the supply lower, or switch it off.',
      numbers: { highestVolts: highest, ceilingVolts },
    })
  }
  return answer(
    {
      course,
      smallestChargerAmps: charger,
      shed: shed?.map(({ id, name, shed: how, amps }) => ({ id, name, shed: how, amps })) ?? null,
      minutesToFloor: minutes,
    },
    numbers,
  )
}

const chargeOf = ({ source }: SupplySetup) => ({
  charge: source.charge,
  ...(source.setVolts === undefined ? {} : { setVolts: source.setVolts }),
})

function missingIn({ source }: SupplySetup): string[] {
  const facts = chemistryFacts[source.chemistry]
  return [
    facts.restVolts && !(source.cells > 0) ? 'how many cells' : '',
    facts.restVolts && !(source.capacityAh > 0) ? 'its ampere-hours' : '',
    facts.restVolts && !Number.isFinite(source.charge) ? 'its state of charge' : '',
    !facts.restVolts && source.setVolts === undefined ? 'its volts' : '',
  ].filter(Boolean)
}
