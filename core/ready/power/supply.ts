import { cellRestVolts, chemistryFacts, coldShare, type Chemistry } from './chemistry'
import { countedAmps } from './peukert'

/** The source as a person describes it. */
export interface Source {
  chemistry: Chemistry
  /** Cells in series; for a bench supply or mains 1. */
  cells: number
  capacityAh: number
  /** State of charge, 0 to 1. */
  charge: number
  celsius: number
  /** Source alone, ohm; where not known, from the chemistry and capacity. */
  ohms?: number
  /** Volts a bench supply or a unit's own supply holds. */
  setVolts?: number
  /** Amps a bench supply can give. */
  limitAmps?: number
}

/** Something that draws on the supply besides the unit. */
export interface Load {
  id: string
  name: string
  amps: number
  /** How it is shed: "pull fuse F14". */
  shed: string
  /** True while it is shed. */
  off: boolean
}

/** A charger or stabiliser on the battery (PRACTICE D1). */
export interface Charger {
  amps: number
  volts: number
}

/** What feeds the unit: source, leads, what else hangs there, and a charger. */
export interface SupplySetup {
  source: Source
  /** Leads from source to unit, there and back, ohm. */
  leadOhms: number
  loads: readonly Load[]
  charger: Charger | null
}

/** A stretch of the run with what the unit draws in it. */
export interface Stretch {
  name: string
  ms: number
  unitAmps: number
}

/** The supply at one moment of the run. */
export interface SupplyPoint {
  /** From the start of the run, ms. */
  at: number
  volts: number
  charge: number
  /** Current out of the battery, A; negative while it is charged. */
  batteryAmps: number
}

/** How the supply runs over the time of a run. */
export interface SupplyCourse {
  points: SupplyPoint[]
  /** Volts at the unit's terminals at the start, with the first stretch's load on. */
  nowVolts: number
  lowestVolts: number
  lowestAt: number
  endVolts: number
  /** At the end of the write, its load still on. */
  lastByteVolts: number
  /** Energy out of the battery's own source, into charger's account, and where it went, joules; they balance. */
  energy: { source: number; charger: number; unit: number; loads: number; lost: number; stored: number }
}

/** Ohms of the source where nobody measured them. */
export function sourceOhms({ chemistry, cells, capacityAh, charge, celsius, ohms }: Source): number {
  if (ohms !== undefined) return ohms
  const { ohmAmpereHours, restVolts } = chemistryFacts[chemistry]
  if (!restVolts) return 0
  // A cold cell has more, doubling by about −20 °C; an empty one too (from memory).
  const cold = 1 + Math.max(0, 25 - celsius) / 45
  const empty = 1 + (1 - charge) * 0.5
  return ((cells * ohmAmpereHours) / capacityAh) * cold * empty
}

/** Volts of the source with nothing on it. */
export function restVolts({ chemistry, cells, charge, celsius, setVolts }: Source): number {
  const cell = cellRestVolts(chemistry, charge, celsius)
  return cell === null ? (setVolts ?? 0) : cell * cells
}

interface Flow {
  terminalVolts: number
  batteryAmps: number
  chargerAmps: number
}

/**
 * What flows with a load on: the charger gives up to its amps as long as the battery's terminals stay below its
 * volts; the rest comes from the battery. Ohm's and Kirchhoff's laws.
 */
export function flowOf(setup: SupplySetup, source: Source, unitAmps: number): Flow {
  const { leadOhms, loads, charger } = setup
  const others = loads.reduce((sum, load) => sum + (load.off ? 0 : load.amps), 0)
  const total = others + unitAmps
  const open = restVolts(source)
  const ohms = sourceOhms(source)
  const facts = chemistryFacts[source.chemistry]
  const lead = unitAmps * leadOhms
  if (!facts.restVolts) {
    // A supply that reaches its limit lets its volts go; what it cannot give is missing.
    const limit = source.limitAmps ?? Infinity
    const given = total > limit ? open * (limit / total) : open
    return { terminalVolts: given - total * ohms - lead, batteryAmps: Math.min(total, limit), chargerAmps: 0 }
  }
  let chargerAmps = 0
  // A charger on cells that take no charge holds nothing up (judge-charger.ts refuses it by name).
  if (charger && charger.amps > 0 && facts.charging) {
    chargerAmps = charger.amps
    const atPost = open - (total - chargerAmps) * ohms
    if (atPost > charger.volts) {
      // Its voltage limit: it gives just what holds the post there, and never takes.
      chargerAmps = Math.max(0, total - (open - charger.volts) / Math.max(ohms, 1e-6))
      chargerAmps = Math.min(charger.amps, chargerAmps)
    }
  }
  const batteryAmps = total - chargerAmps
  return { terminalVolts: open - batteryAmps * ohms - lead, batteryAmps, chargerAmps }
}

const stepsPerStretch = 24

/**
 * Follows the supply through the run: charge taken by Peukert, volts at the unit's terminals. Euler's method with
 * steps short against the run; energy is accounted for in every step.
 */
export function supplyCourse(setup: SupplySetup, stretches: readonly Stretch[]): SupplyCourse {
  const facts = chemistryFacts[setup.source.chemistry]
  const room = setup.source.capacityAh * coldShare(setup.source.chemistry, setup.source.celsius)
  const source = { ...setup.source }
  const points: SupplyPoint[] = []
  const energy = { source: 0, charger: 0, unit: 0, loads: 0, lost: 0, stored: 0 }
  const others = setup.loads.reduce((sum, load) => sum + (load.off ? 0 : load.amps), 0)
  let at = 0
  let lastByteVolts: number | undefined
  for (const { name, ms, unitAmps } of stretches) {
    const steps = ms > 0 ? stepsPerStretch : 1
    for (let step = 0; step < steps; step++) {
      const flow = flowOf(setup, source, unitAmps)
      points.push({ at, volts: flow.terminalVolts, charge: source.charge, batteryAmps: flow.batteryAmps })
      const seconds = ms / steps / 1000
      const open = restVolts(source)
      const post = open - flow.batteryAmps * sourceOhms(source)
      energy.source += open * Math.max(0, flow.batteryAmps) * seconds
      energy.stored += open * Math.max(0, -flow.batteryAmps) * seconds
      energy.charger += post * flow.chargerAmps * seconds
      energy.unit += flow.terminalVolts * unitAmps * seconds
      energy.loads += post * others * seconds
      energy.lost += (flow.batteryAmps ** 2 * sourceOhms(source) + unitAmps ** 2 * setup.leadOhms) * seconds
      if (facts.restVolts && room > 0) {
        const counted =
          flow.batteryAmps > 0
            ? countedAmps(flow.batteryAmps, setup.source.capacityAh, facts.ratedHours, facts.peukert)
            : flow.batteryAmps
        source.charge = Math.min(1, Math.max(0, source.charge - (counted * seconds) / 3600 / room))
      }
      at += ms / steps
    }
    const flow = flowOf(setup, source, unitAmps)
    points.push({ at, volts: flow.terminalVolts, charge: source.charge, batteryAmps: flow.batteryAmps })
    if (name === 'write') lastByteVolts = flow.terminalVolts
  }
  const lowest = points.reduce((low, point) => (point.volts < low.volts ? point : low), points[0]!)
  return {
    points,
    nowVolts: points[0]!.volts,
    lowestVolts: lowest.volts,
    lowestAt: lowest.at,
    endVolts: points[points.length - 1]!.volts,
    lastByteVolts: lastByteVolts ?? points[points.length - 1]!.volts,
    energy,
  }
}

/** Longest that is looked ahead for the floor, ms: a working day. */
const horizonMs = 12 * 3_600_000

/** Minutes until the terminals reach the floor at a steady draw; null when they never do within twelve hours. */
export function minutesToFloor(setup: SupplySetup, unitAmps: number, floorVolts: number): number | null {
  const first = flowOf(setup, setup.source, unitAmps)
  if (first.terminalVolts < floorVolts) return 0
  const { points } = supplyCourse(
    setup,
    Array.from({ length: 48 }, (_, at) => ({ name: String(at), ms: horizonMs / 48, unitAmps })),
  )
  const below = points.findIndex(({ volts }) => volts < floorVolts)
  if (below < 0) return null
  const [before, after] = [points[below - 1]!, points[below]!]
  const share = before.volts === after.volts ? 0 : (before.volts - floorVolts) / (before.volts - after.volts)
  return (before.at + share * (after.at - before.at)) / 60_000
}

/**
 * Corrects the model by what a meter shows at the unit's terminals: the charge whose volts, under the load that is on
 * now, are those. Null where no charge gives them (the meter or the description is off).
 */
export function correctedBy(
  setup: SupplySetup,
  measuredVolts: number,
  unitAmpsNow: number,
): SupplySetup | null {
  const { source } = setup
  const facts = chemistryFacts[source.chemistry]
  if (!facts.restVolts) {
    const lost = restVolts(source) - flowOf(setup, source, unitAmpsNow).terminalVolts
    return { ...setup, source: { ...source, setVolts: measuredVolts + lost } }
  }
  const at = (charge: number) => flowOf(setup, { ...source, charge }, unitAmpsNow).terminalVolts
  // Half a volt for twelve covers surface charge and the spread of cells (from memory).
  const slack = 0.04 * restVolts({ ...source, charge: 1 })
  if (measuredVolts > at(1) + slack || measuredVolts < at(0) - slack) return null
  let [low, high] = [0, 1]
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2
    if (at(middle) < measuredVolts) low = middle
    else high = middle
  }
  return { ...setup, source: { ...source, charge: (low + high) / 2 } }
}
