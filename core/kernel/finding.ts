/** How much a finding weighs, from lightest to heaviest. */
export type Level = 'go' | 'note' | 'hold' | 'stop'

/** The worst level among a gate's findings; `unknown` when nothing was judged. Never read unknown as go. */
export type Verdict = Level | 'unknown'

/** One judgement of one rule. The same shape for fit, power, wiring, backup, proof and logs. */
export interface Finding {
  /** The rule's name; it is also the name of its file. */
  rule: string
  level: Level
  /** One sentence to a person. */
  says: string
  /** The figures or the clause the sentence rests on. */
  because: string
  /** What to do about it. */
  remedy?: string
  /** The figures by name; the unit is in the name. */
  numbers?: Record<string, number>
}

const weight: Record<Level, number> = { go: 0, note: 1, hold: 2, stop: 3 }

/** Above zero where the first level weighs more than the second; for sorting and for the worst of several. */
export const weighs = (a: Level, b: Level): number => weight[a] - weight[b]

/** The order in which a person chooses: what is clear first, what nobody judged below a hold, a stop last. */
const choiceOrder: Record<Verdict, number> = { go: 0, note: 1, hold: 2, unknown: 3, stop: 4 }
/** Orders verdicts as one chooses among images: go before note, note before hold, stop last. */
export const bestFirst = (a: Verdict, b: Verdict): number => choiceOrder[a] - choiceOrder[b]

/** The worst level among the findings; `unknown` for none at all. */
export function verdictOf(findings: readonly Finding[]): Verdict {
  let worst: Verdict = 'unknown'
  for (const { level } of findings) {
    if (worst === 'unknown' || weighs(level, worst) > 0) worst = level
  }
  return worst
}

/** The findings, heaviest first; equal levels keep their order. */
export function heaviestFirst<F extends Finding>(findings: readonly F[]): F[] {
  return [...findings].sort((a, b) => weighs(b.level, a.level))
}

/** A named person's word that lets one `hold` pass. A `stop` cannot be released. */
export interface Release {
  rule: string
  name: string
  reason: string
}

/** The verdict when the holds that a person released count as notes. A stop stays a stop. */
export function verdictAfter(findings: readonly Finding[], releases: readonly Release[]): Verdict {
  const released = new Set(releases.map((release) => release.rule))
  return verdictOf(
    findings.map((finding) =>
      finding.level === 'hold' && released.has(finding.rule) ? { ...finding, level: 'note' } : finding,
    ),
  )
}
