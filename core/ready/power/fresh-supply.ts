import { isChargeable } from './charging'
import type { Chemistry } from './chemistry'

/** What to do about a supply that is too low, by what it is; where nobody said what it is, both ways out. */
export function freshSupply(chemistry: Chemistry | undefined): string {
  if (chemistry === 'bench') return 'Set the supply higher, shorten its leads, or take a stronger one.'
  if (chemistry === 'mains') return 'Look at the mains and at the unit’s own supply; do not write with it.'
  if (chemistry === undefined)
    return 'Put a charger on a battery that takes one, fresh cells in where it does not, and measure again.'
  return isChargeable(chemistry)
    ? 'Put a charger on the battery, or change it, and measure again.'
    : 'Put fresh cells in, and measure again.'
}
