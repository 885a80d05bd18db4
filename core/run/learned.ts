import type { RunState } from './fold'
import type { Step, StepKind } from './step'

/** What the past runs of a family over one link tell of its times: actual over predicted, of the machine's own part. */
export interface Learned {
  /** Runs that came to their end, which it rests on. */
  count: number
  /** By kind of step: the median of actual over predicted, with the least and the greatest seen. */
  ratios: Partial<Record<StepKind, { median: number; min: number; max: number; count: number }>>
}

/** A step's time with its range, ms. */
export interface TimedStep extends Step {
  /** As learned; the link's arithmetic where nothing was. */
  likelyMs: number
  minMs: number
  maxMs: number
}

/** What a plan takes, by who is busy. */
export interface PlanTime {
  /** The machine works and nobody may touch it: look away. */
  handsOffMs: number
  /** The machine works by itself, hands off or not. */
  aloneMs: number
  /** A person does something. */
  personMs: number
  totalMs: number
  minMs: number
  maxMs: number
  /** Proved runs of the family that it was learned from. */
  learnedFrom: number
}

/** Steps shorter than this say more about the clock than about the unit, ms. */
const shortestMs = 200
/** Without past runs: the wire cannot be faster; a fifth more covers retries and a slow unit (common practice). */
const slackOfMachine = 1.2
/** A person takes between half and twice the usual (common practice). */
const personRange = { min: 0.5, max: 2 }

/** Steps of which a leg that goes on in the middle does a part only. */
const inPart: ReadonlySet<StepKind> = new Set(['erase', 'write'])
/** Fewer than this tell nothing of what is usual. */
const minForOutliers = 5
/** How far from the median a time may lie, in robust standard deviations (Hampel; 1.4826 makes them such). */
const hampel = { deviations: 3, scale: 1.4826 }

/**
 * Learns from runs of one family: of each kind of step the median of actual over predicted time. Only proved runs
 * count, and of a step only what the machine did: a question to the person is not its time. A step that a leg went on
 * with in the middle is no whole one and tells nothing, and neither does one that lies far from all others.
 * @param linkId only runs over this link; what is not known to have gone over it is left out.
 */
export function learnTimes(runs: readonly RunState[], linkId?: string): Learned {
  const ended = runs.filter(
    ({ outcome, facts }) =>
      (outcome === 'proved' || outcome === 'done') && (linkId === undefined || facts.link?.id === linkId),
  )
  // A stand-in keeps to the arithmetic; where a real unit was written once, that alone tells what is usual.
  const real = ended.filter(({ facts }) => !facts.port.standIn)
  const proved = real.length > 0 ? real : ended
  const seen = new Map<StepKind, number[]>()
  for (const run of proved) {
    run.steps.forEach((step, index) => {
      if (step.startedAt === undefined || step.endedAt === undefined || step.predictedMs < shortestMs) return
      if (run.goesOnAt !== null && inPart.has(step.kind)) return
      const asked = run.questions
        .filter((question) => question.step === index && question.answeredAt !== undefined)
        .reduce((sum, { at, answeredAt }) => sum + (answeredAt! - at), 0)
      const actual = step.endedAt - step.startedAt - asked
      const list = seen.get(step.kind) ?? []
      list.push(actual / step.predictedMs)
      seen.set(step.kind, list)
    })
  }
  const ratios: Learned['ratios'] = {}
  for (const [kind, all] of seen) {
    const list = withoutOutliers(all)
    ratios[kind] = {
      median: median(list),
      min: Math.min(...list),
      max: Math.max(...list),
      count: list.length,
    }
  }
  return { count: proved.length, ratios }
}

/** What lies within three robust deviations of the median (Hampel identifier); all of it while there are few. */
export function withoutOutliers(list: readonly number[]): number[] {
  const middle = median(list)
  const spread = median(list.map((each) => Math.abs(each - middle))) * hampel.scale
  if (list.length < minForOutliers || spread === 0) return [...list]
  return list.filter((each) => Math.abs(each - middle) <= hampel.deviations * spread)
}

/** The middle one; the mean of the two middle ones of an even number. */
export function median(list: readonly number[]): number {
  const sorted = [...list].sort((a, b) => a - b)
  const middle = sorted.length >> 1
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2
}

/** A plan's steps with their range, corrected by what was learned. */
export function timePlan(plan: readonly Step[], learned: Learned): TimedStep[] {
  return plan.map((step) => {
    const ratio = learned.ratios[step.kind]
    const machine = ratio
      ? {
          likely: step.predictedMs * ratio.median,
          min: step.predictedMs * ratio.min,
          max: step.predictedMs * ratio.max,
        }
      : { likely: step.predictedMs, min: step.predictedMs, max: step.predictedMs * slackOfMachine }
    return {
      ...step,
      likelyMs: machine.likely + step.personMs,
      minMs: machine.min + step.personMs * personRange.min,
      maxMs: machine.max + step.personMs * personRange.max,
    }
  })
}

/** Time of a plan: hands-off, alone, with hands, together, and its range, ms. */
export function timeOf(steps: readonly TimedStep[], learned: Learned): PlanTime {
  const sum = (of: (step: TimedStep) => number) => steps.reduce((total, step) => total + of(step), 0)
  const personMs = sum((step) => step.personMs)
  const totalMs = sum((step) => step.likelyMs)
  return {
    handsOffMs: sum((step) => (step.handsOff ? step.likelyMs : 0)),
    aloneMs: totalMs - personMs,
    personMs,
    totalMs,
    minMs: sum((step) => step.minMs),
    maxMs: sum((step) => step.maxMs),
    learnedFrom: learned.count,
  }
}

/** The steps as a wake keeps them: what was predicted by arithmetic, so that the next run learns from that and not from a guess on a guess. */
export function bareSteps(plan: readonly Step[]): Step[] {
  return plan.map(({ kind, piece, says, predictedMs, tailMs, personMs, handsOff }) => ({
    kind,
    ...(piece === undefined ? {} : { piece }),
    says,
    predictedMs,
    ...(tailMs === undefined ? {} : { tailMs }),
    personMs,
    handsOff,
  }))
}
