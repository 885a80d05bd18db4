import { applicationRegions, drivenLink, type Component, type Family } from '../family'
import type { Medium } from '../image'
import { asSentence, bytesText, inSentence } from '../kernel'
import { linkWriteMs } from '../link'
import { eraseSectors, orderStepPersonMs, powerCyclePersonMs, powerOrdered, step, stepsText } from './plan'
import type { Step } from './step'

/* Writes that this program does not drive itself: hands do them, the unit, or another tool; and what any write takes. */

/** The steps of a chip's change; one that came ready programmed is neither checked for blank nor written. */
export const swapSteps = ({ chipReplacement = [] }: Pick<Family, 'chipReplacement'>, ready: boolean) =>
  chipReplacement.filter(({ blank }) => !(ready && blank))

/** Steps that hands do, in their own time. */
const hands = (kind: Step['kind'], says: string, acts: number, predictedMs = 0) =>
  step(kind, says, predictedMs, { personMs: acts * orderStepPersonMs })

/** Power as ordered before, and the version seen on the unit after what hands do in between. */
function aroundByHand({ powerOrder }: Family, { name }: Component, act: Step): Step[] {
  const order = powerOrder?.on.length ?? 0
  return [
    ...(order > 0 ? [hands('power-up', powerOrdered(order), order)] : []),
    act,
    hands('look', `See the ${inSentence(name)}’s version on the unit`, 3),
  ]
}

/** The steps of an image that goes in with a chip in its socket: by hand from end to end. */
export function planSwap(
  family: Family,
  component: Component,
  { ready = false }: { ready?: boolean } = {},
): Step[] {
  const { length } = swapSteps(family, ready)
  return aroundByHand(family, component, hands('swap', `Change the chip, ${stepsText(length)}`, 3 * length))
}

/** The steps of an image that the unit takes from a card or stick by itself. */
export function planMedium(family: Family, component: Component, { name, update }: Medium): Step[] {
  const prompts = update?.prompts.length ?? 0
  const asks = prompts === 1 ? 'one question' : `${prompts} questions`
  const says = asSentence(`${name} in${prompts > 0 ? `, and ${asks} of the unit` : ''}`).replace(/\.$/, '')
  return aroundByHand(family, component, hands('media', says, prompts + 2, (update?.minutes ?? 0) * 60_000))
}

/**
 * The steps of a write that this program does not drive itself: the same in kind, timed by the family's usual time or
 * the link's usual net rate, so that power, laptop and the day can be judged for it all the same.
 */
export function planElsewhere(
  family: Family,
  component: Component,
  segments: readonly { address: number; length: number }[],
): Step[] {
  const bytes = segments.reduce((sum, { length }) => sum + length, 0)
  const { eraseMs, programMs, sectors } = memoryTimes(component, segments)
  const [link] = family.links
  const rate = link?.bytesPerSecond ?? 0
  const wire = rate > 0 ? (bytes * 1000) / rate : 0
  const usual = component.usualMs
  const entry = family.entry[0]!
  const hands = entry.kind === 'by-hand' ? entry.steps.length * orderStepPersonMs : 0
  return [
    step('connect', `Join ${inSentence(link?.name ?? 'the link')}`, 0, { personMs: 2 * orderStepPersonMs }),
    step('enter', entry.name, entry.settleMs, { personMs: hands }),
    step('erase', eraseSectors(sectors), eraseMs, { handsOff: true }),
    step(
      'write',
      `Write ${bytesText(bytes)}`,
      usual === undefined ? wire + programMs : Math.max(0, usual - eraseMs),
      {
        handsOff: true,
      },
    ),
    step('restart', 'Start the new firmware, then power off and on', 2 * family.restart.readyMs, {
      personMs: powerCyclePersonMs,
    }),
    step('prove', `Read the ${inSentence(component.name)}’s version from the unit`, 0, {
      personMs: 3 * orderStepPersonMs,
    }),
  ]
}

/**
 * Predicted time of one write over the family's own link, ms: by the link's arithmetic where this program drives it,
 * else by the usual net rate and the memory's own times. It weighs the hops of a path.
 */
export function hopMs(
  family: Family,
  component: Component,
  segments: readonly { address: number; length: number }[],
): number {
  const bytes = segments.reduce((sum, { length }) => sum + length, 0)
  const driven = drivenLink(family)
  const restartMs = 2 * family.restart.readyMs + powerCyclePersonMs
  const { eraseMs, programMs } = memoryTimes(component, segments)
  if (component.usualMs !== undefined) return component.usualMs + restartMs
  if (driven) return linkWriteMs(driven, bytes, programMs) + eraseMs + restartMs
  const [link] = family.links
  const rate = link?.bytesPerSecond ?? 0
  return (rate > 0 ? (bytes * 1000) / rate : 0) + eraseMs + programMs + restartMs
}

/** What erasing and programming take by the memory's own times, ms. */
function memoryTimes(
  component: Component,
  segments: readonly { address: number; length: number }[],
): { eraseMs: number; programMs: number; sectors: number } {
  const total = { eraseMs: 0, programMs: 0, sectors: 0 }
  for (const region of applicationRegions(component)) {
    const inside = segments.filter(
      ({ address, length }) => address < region.address + region.length && region.address < address + length,
    )
    const length = inside.reduce((sum, each) => sum + each.length, 0)
    const sectors = region.sectorBytes ? Math.ceil(length / region.sectorBytes) : inside.length
    total.sectors += sectors
    total.eraseMs += sectors * (region.eraseMsPerSector ?? 0)
    total.programMs += Math.ceil(length / (region.pageBytes ?? 256)) * (region.programMsPerPage ?? 0)
  }
  return total
}
