import type { Family } from '../family'
import { verdictOf, voltsText, type Finding } from '../kernel'
import type { Gate } from './gate'
import { freshSupply, isChargeable, type Chemistry } from './power'

/** Volts that idle supply must stand above the floor, so that the write's own sag does not reach it: 0.3 V at 12 V, a fortieth of the floor below (common practice). */
export const idleMarginVolts = (floorVolts: number): number => Math.min(0.3, floorVolts * 0.025)

/** PRACTICE D1, D8: where and when the supply is measured, by the profile: a unit that is opened dead is not switched on for it. */
export function measureText({ power, powerOrder }: Pick<Family, 'power' | 'powerOrder'>): string {
  const { at = 'at the unit’s terminals', unit = 'on', behind } = power.measure ?? {}
  const first = powerOrder?.on.find(({ id }) => id === behind)
  return [
    ...(first ? [`First: ${first.does}`] : []),
    `Measure ${at}, with the unit ${unit}, and type the volts.`,
  ].join(' ')
}

/**
 * PRACTICE D1: the supply, measured at the unit's terminals with the unit idle, against the family's floor.
 * @param measuredVolts null when nobody has measured; that is a hold, never a go.
 * @param chemistry what feeds it, where that is known: what to do about it depends on it.
 */
export function judgeSupply(
  family: Pick<Family, 'power' | 'powerOrder'>,
  measuredVolts: number | null,
  chemistry: Chemistry | undefined = family.power.supply?.chemistry,
): Gate {
  const { floorVolts, ceilingVolts } = family.power
  const finding = judge(family, measuredVolts, chemistry)
  const findings: Finding[] = [
    { rule: measuredVolts === null ? 'supply-measured' : 'supply-floor', ...finding },
  ]
  return {
    id: 'power',
    name: 'Power',
    verdict: verdictOf(findings),
    findings,
    numbers: {
      floorVolts,
      ceilingVolts,
      ...(measuredVolts === null ? {} : { supplyVolts: measuredVolts, measuredVolts }),
    },
  }
}

function judge(
  family: Pick<Family, 'power' | 'powerOrder'>,
  measured: number | null,
  chemistry: Chemistry | undefined,
): Omit<Finding, 'rule'> {
  const { floorVolts: floor, ceilingVolts: ceiling } = family.power
  const limits = `Floor ${voltsText(floor)}, ceiling ${voltsText(ceiling)}.`
  if (measured === null) {
    return {
      level: 'hold',
      says: 'The supply is not measured.',
      because: limits,
      remedy: measureText(family),
    }
  }
  const numbers = { supplyVolts: measured, floorVolts: floor, marginVolts: measured - floor }
  if (measured < floor) {
    return {
      level: 'stop',
      says: `The supply is at ${voltsText(measured)}; the floor is ${voltsText(floor)}.`,
      because: 'A brown-out in the write is the classic way to kill a unit.',
      remedy: freshSupply(chemistry),
      numbers,
    }
  }
  if (measured > ceiling) {
    return {
      level: 'stop',
      says: `The supply is at ${voltsText(measured)}, above the ceiling of ${voltsText(ceiling)}.`,
      because: limits,
      remedy: 'Switch the charger off or set it lower.',
      numbers,
    }
  }
  if (measured < floor + idleMarginVolts(floor)) {
    return {
      level: 'hold',
      says: `Only ${voltsText(measured - floor)} above the floor before the write begins.`,
      because: `Idle supply should stand ${voltsText(idleMarginVolts(floor))} above the floor, since the write draws more.`,
      remedy:
        chemistry !== undefined && isChargeable(chemistry)
          ? 'Put a charger on the battery, or shed a load, and measure again.'
          : freshSupply(chemistry),
      numbers,
    }
  }
  return {
    level: 'go',
    says: `The supply is at ${voltsText(measured)}, ${voltsText(measured - floor)} above the floor.`,
    because: limits,
    numbers,
  }
}
