import { verdictOf, type Finding, type Verdict } from '../kernel'
import type { FitQuestion } from './question'
import { fitRules } from './rules'

/** One step of the way from what is on the unit to what is wanted. */
export interface Hop {
  componentId: string
  /** Version now; absent when not known. */
  from?: string
  to?: string
}

export interface Fit {
  verdict: Verdict
  findings: Finding[]
  /** Empty when the image must not go on. */
  path: Hop[]
}

/** Says whether an image fits a unit, by every rule, and the hops to get there. */
export function judgeFit(question: FitQuestion): Fit {
  const claimed = question.image.identity?.familyId === question.family.id
  const findings = fitRules.flatMap((rule) => {
    // An image of nobody knows has nothing the other rules could read.
    if (!claimed && rule.id !== 'image-known') return []
    const finding = rule.judge(question)
    return finding ? [{ rule: rule.id, ...finding }] : []
  })
  const verdict = verdictOf(findings)
  if (verdict === 'stop') return { verdict, findings, path: [] }
  const hop: Hop = { componentId: question.component.id }
  const from = question.unit.versions[question.component.id]
  if (from !== undefined) hop.from = from
  const to = question.image.identity?.version
  if (to !== undefined) hop.to = to
  return { verdict, findings, path: [hop] }
}
