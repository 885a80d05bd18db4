import { verdictOf, type Finding, type Verdict, weighs } from '../kernel'
import type { FitQuestion, FitRule } from './question'
import { fitRules, standingRules, stepRules } from './rules'

/** A verdict and the findings that it is the worst of. */
export interface Judged {
  verdict: Verdict
  findings: Finding[]
}

/** Says whether an image fits a unit as it is now, by every rule. The way there is path.ts. */
export function judgeFit(question: FitQuestion): Judged {
  const findings = judgeRules(question, fitRules)
  return { verdict: verdictOf(findings), findings }
}

/** Says whether an image belongs on this unit at all, whatever version is on it now. */
export function judgeBelonging(question: FitQuestion): Judged {
  const findings = judgeRules(question, standingRules)
  return { verdict: verdictOf(findings), findings }
}

/** Says whether the step from the version that is on the unit to the image's may be taken. */
export function judgeSteps(question: FitQuestion): Finding[] {
  return judgeRules(question, stepRules)
}

/** The heaviest finding alone, for a matrix: the rules are asked until one says stop. */
export function worstOf(question: FitQuestion, rules: readonly FitRule[] = fitRules): Finding {
  let worst: Finding | undefined
  for (const rule of rules) {
    const finding = rule.judge(question)
    if (!finding) continue
    if (!worst || weighs(finding.level, worst.level) > 0) worst = { rule: rule.id, ...finding }
    if (worst.level === 'stop') break
  }
  return worst!
}

function judgeRules(question: FitQuestion, rules: readonly FitRule[]): Finding[] {
  const claimed = claims(question)
  return rules.flatMap((rule) => {
    // An image that nobody knows has nothing the other rules could read.
    if (!claimed && rule.id !== 'image-known') return []
    const finding = rule.judge(question)
    return finding ? [{ rule: rule.id, ...finding }] : []
  })
}

const claims = ({ image, family, component }: FitQuestion) =>
  image.identity?.familyId === family.id && image.identity.componentId === component.id
