import type { Finding } from '../../kernel'
import { channelNamed, type Log } from '../log'
import { binFigures, type Binned } from '../view'
import type { Aim } from './agreement'

/** How far from its aim the unit was in one round. */
export interface RoundError {
  round: number
  /** Root of the mean square over the cells that were reached, each cell once. */
  rms: number
  /** Worst cell, with its sign. */
  worst: number
  /** Spread within the cells, root of the mean square: what no table can take away. */
  spread: number
  /** Cells with enough figures, of all. */
  reached: number
  cells: number
}

/** Figures below which a cell says nothing. */
const fewest = 5

/** The error of a log as figures: measured less wanted; null where a channel is missing. */
export function errorOf(log: Log, aim: Aim): Float64Array | null {
  const measured = channelNamed(log, aim.channel)
  if (!measured) return null
  if ('value' in aim.target) {
    const { value } = aim.target
    return measured.values.map((each) => each - value)
  }
  const target = channelNamed(log, aim.target.channel)
  return target ? measured.values.map((each, row) => each - target.values[row]!) : null
}

/** The error of a log by the map's cells; null where a channel is missing. */
export function errorMap(log: Log, aim: Aim): Binned | null {
  const error = errorOf(log, aim)
  const x = channelNamed(log, aim.x.channel)
  const y = channelNamed(log, aim.y.channel)
  return error && x && y ? binFigures(error, { x: x.values, y: y.values }, aim.x.points, aim.y.points) : null
}

/** One figure for a round, from its map; null where no cell has enough figures. */
export function roundError(round: number, map: Pick<Binned, 'count' | 'mean' | 'spread'>): RoundError | null {
  let [squares, spreads, reached, worst] = [0, 0, 0, 0]
  map.count.forEach((count, cell) => {
    if (count < fewest) return
    reached++
    squares += map.mean[cell]! ** 2
    spreads += map.spread[cell]! ** 2
    if (Math.abs(map.mean[cell]!) > Math.abs(worst)) worst = map.mean[cell]!
  })
  if (reached === 0) return null
  return {
    round,
    rms: Math.sqrt(squares / reached),
    worst,
    spread: Math.sqrt(spreads / reached),
    reached,
    cells: map.count.length,
  }
}

/** More rounds than this are nine times in ten a mechanical fault (PRACTICE K1, common practice). */
export const maxRounds = 9
/** A round that brings less than this share is no step forward. */
const minGain = 0.1
/** Rounds without a step forward after which the figures say so. */
const idleRounds = 2

/** What is looked at when tables do not help any more (PRACTICE K1, common practice). */
export const mechanicalChecks: Record<'combustion' | 'electric', readonly string[]> = {
  combustion: [
    'Leaks: intake and exhaust, smoke or soapy water, engine cold and off.',
    'Air sensor: clean, plug tight, plausible at rest and at full speed.',
    'Plugs and leads: gap, colour, cracks.',
    'Fuel pump: pressure at full load, filter, return.',
  ],
  electric: [
    'Propeller and shaft: weed, rope, a bent blade, a tight bearing.',
    'Speed sensor: plug, distance, plausible at rest and turning by hand.',
    'Cooling: flow, air in it, a filter that is shut.',
    'Traction battery: cells that differ, a warm terminal. Licensed people come first.',
  ],
}

/** Where the rounds are going. @param errors of the rounds that were measured, oldest first. */
export function judgeConvergence(
  rounds: number,
  errors: readonly RoundError[],
  aim: Pick<Aim, 'within' | 'unit'> | null,
  drive: 'combustion' | 'electric',
): Finding[] {
  const findings: Finding[] = []
  const figure = (value: number) => `${Number(value.toPrecision(3))}${aim?.unit ? ` ${aim.unit}` : ''}`
  const last = errors.at(-1)
  const checks = mechanicalChecks[drive].join(' ')
  const reached = last !== undefined && aim !== null && last.rms <= aim.within
  if (reached)
    findings.push({
      rule: 'aim-reached',
      level: 'go',
      says: 'The aim is reached.',
      because: `The error is ${figure(last.rms)} over ${last.reached} of ${last.cells} cells; ${figure(aim.within)} is good enough.`,
      numbers: { rms: last.rms, within: aim.within },
    })
  else if (errors.length > idleRounds && aim) {
    const before = errors.at(-1 - idleRounds)!
    const best = Math.min(...errors.slice(-idleRounds).map(({ rms }) => rms))
    if (best > before.rms * (1 - minGain))
      findings.push({
        rule: 'not-converging',
        level: 'hold',
        says: `The last ${idleRounds} rounds brought nothing. Look for a mechanical fault before another one.`,
        because: `The error was ${figure(before.rms)} in round ${before.round} and is ${figure(last!.rms)} in round ${last!.round}; within a cell it spreads by ${figure(last!.spread)}.`,
        remedy: checks,
        numbers: { before: before.rms, now: last!.rms },
      })
  }
  if (last && aim && !reached && last.spread > Math.max(aim.within, Math.abs(last.rms)) * 2)
    findings.push({
      rule: 'spread-too-wide',
      level: 'note',
      says: 'The unit does not do the same thing twice.',
      because: `At the same speed and load the error spreads by ${figure(last.spread)}; no table takes that away.`,
      remedy: checks,
      numbers: { spread: last.spread },
    })
  if (rounds > maxRounds && !reached)
    findings.push({
      rule: 'many-rounds',
      level: 'hold',
      says: `This is round ${rounds}. More than ${maxRounds} are nine times in ten a mechanical fault.`,
      because: 'Usual are four or five rounds (common practice).',
      remedy: checks,
      numbers: { rounds },
    })
  return findings
}
