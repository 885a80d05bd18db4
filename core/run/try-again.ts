import type { Family } from '../family'
import { groupedNumber, isProblem, Problem } from '../kernel'
import { factsOf, readSnapshot } from '../unit'
import type { StepContext } from './step-context'
import type { Step, StepKind } from './step'
import { stepActs } from './steps'

/** Tries used up so far, rung by rung. */
export interface Tries {
  asIs: number
  reEnter: number
  adapters: number
}

/** Where a profile says nothing: once as it is, once with a new entry (PRACTICE H6, common practice). */
export const usualRetries: NonNullable<Family['retries']> = { asIs: 1, reEnter: 1, otherAdapter: false }

const repeated: ReadonlySet<StepKind> = new Set(['compare', 'dry-run', 'erase', 'write', 'verify'])
/** These are decisions or have gone too far: trying again by itself would be wrong. */
const final = [
  'write-abandoned',
  'supply-low',
  'image-outside',
  'debug-protected',
  'port-lost',
  'same-image',
] as const
/** Another adapter is joined and tried this often at most. */
const maxAdapters = 2

/**
 * PRACTICE H6: a failed try is repeated as it is, then with a new entry, then at each lower speed of the link, then over
 * another adapter, by the family's policy; each is recorded before it is begun.
 * @returns index of the step to go on with; null when the leg ends with its error.
 */
export async function tryAgain(
  bench: StepContext,
  plan: readonly Step[],
  error: unknown,
  tries: Tries,
): Promise<number | null> {
  const failed = plan[bench.step]!
  if (!repeated.has(failed.kind) || !isProblem(error) || final.some((kind) => isProblem(error, kind))) {
    return null
  }
  const policy = bench.family.retries ?? usualRetries
  const { wake, step, driver, loader } = bench
  // Of several components only the one that failed is begun again.
  const changing = plan.findIndex(
    ({ kind, piece }) => (kind === 'erase' || kind === 'write') && piece === failed.piece,
  )
  const first = Math.min(step, changing)
  const why = error.facts.says
  // Whatever went wrong, nothing of what is in the unit is relied on.
  bench.goesOnAt = null

  while (tries.asIs < policy.asIs) {
    tries.asIs++
    await wake.record({ type: 'retry', step, why: `${why}; again, as it is` })
    if (await works(() => loader.attach())) return first
  }
  while (tries.reEnter < policy.reEnter) {
    tries.reEnter++
    await wake.record({ type: 'retry', step, why: `${why}; again, with a new entry` })
    if (await works(() => enterAgain(bench))) return first
  }
  while (driver.slower) {
    const baud = await slowed(() => driver.slower!())
    if (baud === null) break
    await wake.record({ type: 'retry', step, why: `${why}; again, at ${groupedNumber(baud)} baud` })
    if (await works(() => enterAgain(bench))) return first
  }
  while (policy.otherAdapter && tries.adapters < maxAdapters) {
    tries.adapters++
    const answer = await bench.ask({
      id: 'other-adapter',
      says: `It failed again: ${why}. Join another adapter at the same port; leave the unit powered.`,
      answers: [
        { id: 'stop', says: 'Stop here' },
        { id: 'again', says: 'It is joined: try again' },
      ],
    })
    if (answer !== 'again') return null
    await wake.record({ type: 'retry', step, why: `${why}; again, over another adapter` })
    let says: string[] = []
    const joined = await works(async () => {
      await driver.close().catch(() => {})
      await driver.open()
      await enterAgain(bench)
      says = await whatItSays(bench)
    })
    if (joined) {
      refuseOtherUnit(bench, says)
      return first
    }
  }
  return null
}

/** Into the bootloader again: it may still be there; if not, by the family's way. */
async function enterAgain(bench: StepContext): Promise<void> {
  try {
    await bench.loader.attach()
    bench.inBootloader = true
  } catch (error) {
    if (!isProblem(error) || isProblem(error, 'port-lost')) throw error
    bench.inBootloader = false
    await stepActs.enter(bench)
  }
}

/** What its bootloader says of the unit; nothing where it can say nothing, for it did answer. */
async function whatItSays({ loader }: StepContext): Promise<string[]> {
  try {
    return await loader.identify()
  } catch (error) {
    if (!isProblem(error) || isProblem(error, 'port-lost')) throw error
    return []
  }
}

/**
 * PRACTICE A1: the cable was in a hand; what it was joined to is known before a byte goes into it. A bootloader that does not
 * say its serial tells nothing here, and the proof will.
 * @throws Problem `wrong-unit`.
 */
function refuseOtherUnit({ family, unit, clock }: StepContext, says: readonly string[]): void {
  const { serial } = factsOf(readSnapshot(family, says, clock.now(), 'link'))
  if (serial === undefined || serial === unit.serial) return
  throw new Problem({
    kind: 'wrong-unit',
    says: 'another unit is on the cable',
    expected: `serial ${unit.serial}`,
    found: `serial ${serial}`,
    remedy: 'Nothing was written into this one. Join the unit that is half written; leave it powered.',
  })
}

/** The next lower speed, joined; null when there is none, or it cannot be set. */
async function slowed(act: () => Promise<number | null>): Promise<number | null> {
  try {
    return await act()
  } catch (error) {
    if (!isProblem(error)) throw error
    return null
  }
}

async function works(act: () => Promise<void>): Promise<boolean> {
  try {
    await act()
    return true
  } catch (error) {
    // What is no answer of the unit or the line, such as a journal that cannot be written, ends the run.
    if (!isProblem(error)) throw error
    return false
  }
}
