import type { Family } from '@bench-wake/core/family'
import { chemistryFacts } from '@bench-wake/core/ready'

/** A battery with its leads, as a source, a resistance and one slow drop after it (a first-order Thévenin cell). */
export interface SupplyForm {
  /** Resting volts when full. */
  restVolts: number
  /** Resting volts lost for each ampere-hour taken. */
  voltsPerAh: number
  /** Battery and leads together, ohm. */
  ohms: number
  /** The slow drop: its resistance and its time constant. */
  slowOhms: number
  slowSeconds: number
}

export interface Supply {
  /** Volts at the unit's terminals at `now`, drawing `amps` since the last call. Ages the battery. */
  voltsAt(now: number, amps: number): number
  /** Ampere-hours taken so far; kept between sessions. */
  usedAh: number
}

export function batterySupply(form: SupplyForm, usedAh = 0): Supply {
  let slowDrop = 0
  let last: { now: number; amps: number } | undefined
  return {
    usedAh,
    voltsAt(now, amps) {
      if (last) {
        const seconds = Math.max(0, now - last.now) / 1000
        this.usedAh += (last.amps * seconds) / 3600
        slowDrop += (last.amps * form.slowOhms - slowDrop) * (1 - Math.exp(-seconds / form.slowSeconds))
      }
      last = { now, amps }
      return form.restVolts - form.voltsPerAh * this.usedAh - amps * form.ohms - slowDrop
    },
  }
}

/** The slow drop of a battery after a load is joined, s (made up, of the order of minutes). */
const usualSlowSeconds = 25

/** A battery as the profile describes what usually feeds the unit; undefined where that is no battery. */
export function batteryOf({ power: { supply } }: Pick<Family, 'power'>): SupplyForm | undefined {
  const restVolts = supply && chemistryFacts[supply.chemistry].restVolts
  if (!supply || !restVolts || supply.capacityAh === 0) return undefined
  const { cells, capacityAh, leadOhms, chemistry } = supply
  const [half, full] = [restVolts[Math.floor((restVolts.length - 1) / 2)]!, restVolts.at(-1)!]
  // Half of what a load costs over minutes is there at once.
  const ohms = (chemistryFacts[chemistry].ohmAmpereHours / capacityAh) * cells
  return {
    restVolts: full * cells,
    voltsPerAh: ((full - half) * cells) / (capacityAh / 2),
    ohms: ohms / 2 + leadOhms,
    slowOhms: ohms / 2,
    slowSeconds: usualSlowSeconds,
  }
}
