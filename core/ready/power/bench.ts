import * as v from 'valibot'
import { supplyKinds, type Family } from '../../family'
import { readQuantity } from '../../kernel'
import { lineOf, type Snapshot } from '../../unit'
import type { Finding } from '../../kernel'
import { judgeLead, leadDrop } from '../sums/wire'
import { GeneratorSay } from './judge-generator'
import type { SupplySetup } from './supply'

const amount = (max: number) => v.pipe(v.number(), v.finite(), v.minValue(0), v.maxValue(max))

const loadIds = v.pipe(v.array(v.pipe(v.string(), v.maxLength(80))), v.maxLength(200))

/** What a person says of the supply for a job; whatever is missing is taken from the family, or is not known. */
export const SupplySay = v.object({
  chemistry: v.exactOptional(v.picklist(supplyKinds)),
  cells: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(400))),
  capacityAh: v.exactOptional(v.nullable(amount(20_000))),
  /** 0 to 1. */
  charge: v.exactOptional(v.nullable(amount(1))),
  celsius: v.exactOptional(v.nullable(v.pipe(v.number(), v.minValue(-60), v.maxValue(90)))),
  setVolts: v.exactOptional(v.nullable(amount(1000))),
  leadOhms: v.exactOptional(v.nullable(amount(10))),
  /** The lead as one measures it; it outweighs its ohms. */
  lead: v.exactOptional(
    v.nullable(
      v.strictObject({ metres: amount(1000), squareMillimetres: v.pipe(amount(1000), v.gtValue(0)) }),
    ),
  ),
  /** A generator that feeds the unit's own charger; null or absent where none does. */
  generator: v.exactOptional(v.nullable(GeneratorSay)),
  /** Loads that are shed, by their id in the profile. */
  shed: v.exactOptional(loadIds),
  charger: v.exactOptional(v.nullable(v.object({ amps: amount(500), volts: amount(1000) }))),
  /** Volts at the unit's terminals, with what was shed and joined while they were measured. */
  measured: v.exactOptional(
    v.nullable(
      v.object({
        volts: amount(1000),
        shed: loadIds,
        charger: v.nullable(v.object({ amps: amount(500), volts: amount(1000) })),
      }),
    ),
  ),
})
export type SupplySay = v.InferOutput<typeof SupplySay>

/** Charge that is taken where nobody said one and a measurement will correct it. */
const usualCharge = 0.8

/** The supply as it stands for a job; null where neither the family nor a person describes it. */
export function setupOf(power: Family['power'], said: SupplySay): SupplySetup | null {
  const usual = power.supply
  const chemistry = said.chemistry ?? usual?.chemistry
  if (chemistry === undefined) return null
  const same = chemistry === usual?.chemistry
  const setVolts = said.setVolts ?? (same ? usual?.setVolts : undefined)
  return {
    source: {
      chemistry,
      cells: said.cells ?? (same ? usual.cells : 0),
      capacityAh: said.capacityAh ?? (same ? usual.capacityAh : 0),
      charge: said.charge ?? usualCharge,
      celsius: said.celsius ?? 20,
      ...(setVolts === undefined ? {} : { setVolts }),
    },
    leadOhms: leadOhmsOf(said) ?? usual?.leadOhms ?? 0,
    loads: (usual?.loads ?? []).map((load) => ({ ...load, off: (said.shed ?? []).includes(load.id) })),
    charger: said.charger ?? null,
  }
}

/** Ohms of the lead that was described, there and back; null where nobody did. */
function leadOhmsOf({ lead, leadOhms, celsius }: SupplySay): number | null {
  if (!lead) return leadOhms ?? null
  return leadDrop({ ...lead, amps: 0, celsius: celsius ?? 20 }).ohms
}

/** What the lead takes at the run's highest current; nothing to say where nobody described it. */
export function judgeLeadOf(power: Family['power'], { lead, celsius }: SupplySay): Finding[] {
  if (!lead) return []
  const amps = Math.max(power.amps.idle, power.amps.erase, power.amps.write)
  return [judgeLead({ ...lead, amps, celsius: celsius ?? 20 }, power.floorVolts)]
}

/** Line of a unit's page on which it says what feeds it. */
export const supplyField = 'supply'

/** Volts that a unit says of its own supply, and when it said so; null where its page has no such line or it does not read. */
export function supplyOf(page: Snapshot | undefined): { volts: number; at: number } | null {
  const said = lineOf(page, supplyField)
  if (said === undefined || !page) return null
  try {
    return { volts: readQuantity(said, 'volts', { field: supplyField, min: 0, max: 1000 }), at: page.at }
  } catch {
    return null
  }
}
