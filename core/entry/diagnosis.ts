import { isBus, joinsTwoEnds, type EntryWay, type Family, type FamilyLink } from '../family'
import { expectedBits, normalise, posterior, type Beliefs } from './bayes'
import { causeIds, causes, type CauseId } from './causes'
import { checks, type Check } from './checks'

/** What is known before anybody is asked: of family, bench and the tries so far. */
export interface KnownOfBench {
  family: Family
  link: FamilyLink
  way: EntryWay
  /** Whether the wiring was judged and is right. */
  wiringRight?: boolean
  adapterGood?: boolean
  /** Units that a fresh scan counted. */
  unitsOnBus?: number
  /** How the coach judged the last try: by the clock it was in time, or missed. */
  lastTry?: 'in-time' | 'missed'
  /** Causes found at this bench before, each once: what happened here happens again. */
  foundBefore?: readonly CauseId[]
}

/** Answers so far, by the check's id. */
export type Answers = Readonly<Record<string, string>>

/** A cause with the share it has now. */
export interface Ranked {
  id: CauseId
  share: number
  says: string
  do: string
  /** What speaks for it and against it, in words. */
  because: string[]
}

/** How likely each cause is by what was answered, and what to ask next. */
export interface Diagnosis {
  ranked: Ranked[]
  /** The test to do next; null when one cause stands out or nothing is left to ask. */
  next: (Check & { bits: number }) | null
  /** True when the first stands out. */
  found: boolean
}

/** A cause with this share stands out. */
export const enough = 0.9

/** A cause's share before anything was asked, moved by what is known; with the reason for each move. */
export function priorsOf(known: KnownOfBench): { beliefs: Beliefs; why: Record<string, string[]> } {
  const { family, link, way } = known
  const why: Record<string, string[]> = {}
  const weights: Record<string, number> = {}
  const pins = link.wiring?.pins ?? []
  const pair = pins.some(({ role }) => role === 'transmit' || role === 'data-a' || role === 'can-high')
  const layout = family.snapshot.some(({ field }) => field === 'layout')
  const timed = way.script?.acts.some(({ within }) => within) ?? way.kind === 'by-hand'
  const move = (cause: CauseId, factor: number, reason: string) => {
    weights[cause] = (weights[cause] ?? 0) * factor
    ;(why[cause] ??= []).push(reason)
  }
  for (const id of causeIds) weights[id] = causes[id].usual
  if (!pair) move('swapped-pair', 0, 'this link has no pair to swap')
  if (joinsTwoEnds(link)) move('second-unit', 0, 'this link joins two ends only')
  else if (!family.isolation && !isBus(link))
    move('second-unit', 0.3, 'the profile names nothing else on this link')
  if (!layout) move('wrong-definition', 0, 'this family has no layout')
  if (link.kind === 'usb' || link.kind === 'chip' || link.kind === 'debug')
    move('wrong-speed', 0.2, 'this link finds its speed itself')
  if (!timed) move('missed-window', 0.3, 'this way has no window')
  if (known.wiringRight) {
    move('swapped-pair', 0.3, 'the wiring was drawn and judged right')
    move('wrong-cable', 0.4, 'the wiring was drawn and judged right')
  }
  if (known.adapterGood) move('wrong-cable', 0.6, 'the adapter is known good')
  if (known.unitsOnBus === 1) move('second-unit', 0.1, 'a scan counted one unit')
  if ((known.unitsOnBus ?? 0) > 1) move('second-unit', 10, `a scan counted ${known.unitsOnBus} units`)
  if (known.lastTry === 'missed') move('missed-window', 4, 'by the clock the last try missed its window')
  if (known.lastTry === 'in-time') move('missed-window', 0.4, 'by the clock the last try was in time')
  for (const id of known.foundBefore ?? []) move(id, 1.5, 'it was this at this bench before')
  return { beliefs: normalise(weights), why }
}

/** The causes by how likely they are, and the test to do next. Pure: the same answers give the same ladder. */
export function diagnose(known: KnownOfBench, answers: Answers): Diagnosis {
  const { beliefs: prior, why } = priorsOf(known)
  let beliefs = prior
  for (const check of checks) {
    const answer = check.answers.find(({ id }) => id === answers[check.id])
    if (!answer) continue
    const before = beliefs
    beliefs = posterior(beliefs, likelihoodOf(answer))
    for (const id of causeIds) {
      const [was, is] = [before[id] ?? 0, beliefs[id] ?? 0]
      if (is > was * 1.5 || is < was * 0.67) {
        ;(why[id] ??= []).push(`“${answer.says.toLowerCase()}” speaks ${is > was ? 'for' : 'against'} it`)
      }
    }
  }
  const ranked = causeIds
    .filter((id) => (beliefs[id] ?? 0) > 0.001)
    .sort((a, b) => (beliefs[b] ?? 0) - (beliefs[a] ?? 0))
    .map((id) => ({
      id,
      share: beliefs[id] ?? 0,
      says: causes[id].says,
      do: causes[id].do,
      because: why[id] ?? [],
    }))
  const found = (ranked[0]?.share ?? 0) >= enough
  return { ranked, found, next: found ? null : nextCheck(beliefs, answers) }
}

const likelihoodOf =
  ({ likelihood }: Check['answers'][number]) =>
  (cause: string): number =>
    likelihood[cause as CauseId] ?? likelihood.usual

/** Less than this tells nothing worth a person's time, bits. */
const worthBits = 0.02

/**
 * The test that tells most for its effort. One that could harm comes only when no harmless one is worth its time:
 * "harmless before risky".
 */
export function nextCheck(beliefs: Beliefs, answers: Answers): (Check & { bits: number }) | null {
  const open = checks
    .filter(
      ({ id, about }) => !(id in answers) && (!about || about.some((cause) => (beliefs[cause] ?? 0) > 0.002)),
    )
    .map((check) => ({ ...check, bits: expectedBits(beliefs, check.answers.map(likelihoodOf)) }))
    .filter(({ bits }) => bits >= worthBits)
  const worth = ({ bits, seconds }: { bits: number; seconds: number }) => bits / Math.log2(2 + seconds / 20)
  const best = (risk: number) =>
    open.filter((check) => check.risk === risk).sort((a, b) => worth(b) - worth(a))[0]
  const harmless = best(0)
  const risky = best(1) ?? best(2)
  if (!harmless) return risky ?? null
  // A harmless test that tells next to nothing does not keep a much better one waiting.
  return risky && harmless.bits < 0.1 && worth(risky) > worth(harmless) * 3 ? risky : harmless
}
