import { componentOf, type Component } from '../family'
import { heaviestFirst, verdictOf, type Finding, type Verdict } from '../kernel'
import type { UnitFacts } from '../unit'
import { judgeBelonging, judgeSteps } from './judge-fit'
import type { Hop, PathQuestion, ShelfEntry } from './hop'
import { planPath, type Path } from './path'
import type { FitQuestion } from './question'

/** The whole answer about an image and a unit: does it belong there, and how does one get there. */
export interface Fit {
  verdict: Verdict
  findings: Finding[]
  /** Ordered writes from what is on the unit to what is wanted; empty when it does not fit or nothing leads there. */
  path: Hop[]
  /** Predicted time of all hops, ms. */
  totalMs: number
  /** The way back to what is on the unit now; null where there is none or nobody knows. */
  rollback: Hop[] | null
}

/**
 * Judges the wanted image by the standing rules, plans the way, and judges each step of the way from what will be on
 * the unit by then: 4.1 may need 3.6 first, and is no refusal where 3.6 lies on the shelf (PRACTICE B1, B5).
 * @param componentId the component the job is about; the image's own where nothing is said.
 */
export function judgeWay(question: PathQuestion, componentId?: string): Fit {
  const { family, unit, answers, wanted } = question
  const component = componentOf(family, componentId ?? ownComponent(question))
  const asked: FitQuestion = { family, component, unit, image: wanted, ...(answers ? { answers } : {}) }
  const belonging = judgeBelonging(asked)
  if (belonging.verdict === 'stop') {
    return { verdict: 'stop', findings: belonging.findings, path: [], totalMs: 0, rollback: null }
  }
  const way = planPath(question)
  const steps = stepFindings(asked, way, question.shelf)
  const findings = [...belonging.findings, ...steps, ...way.findings]
  const verdict = verdictOf(findings)
  return {
    verdict,
    findings,
    path: verdict === 'stop' ? [] : way.hops,
    totalMs: verdict === 'stop' ? 0 : way.totalMs,
    rollback: way.rollback,
  }
}

function ownComponent({ family, wanted }: PathQuestion): string | undefined {
  const { familyId, componentId } = wanted.identity ?? {}
  return familyId === family.id ? componentId : undefined
}

/** The heaviest finding of each step rule along the way; without a way, those of the direct step. */
function stepFindings(asked: FitQuestion, way: Path, shelf: readonly ShelfEntry[]): Finding[] {
  const [first] = way.hops
  if (!first || (way.hops.length === 1 && first.componentId === asked.component.id)) return judgeSteps(asked)
  const { family, unit, image } = asked
  const byRule = new Map<string, Finding>()
  let facts: UnitFacts = unit
  for (const hop of way.hops) {
    const component: Component = componentOf(family, hop.componentId)
    const taken = shelf.find(({ id }) => id === hop.imageId)
    const own = taken ?? (image as ShelfEntry)
    for (const finding of judgeSteps({ ...asked, component, unit: facts, image: own })) {
      const known = byRule.get(finding.rule)
      if (!known || heaviestFirst([known, finding])[0] !== known) byRule.set(finding.rule, finding)
    }
    facts = after(facts, hop, own)
  }
  return [...byRule.values()]
}

/** What the unit will say once the hop is done. */
function after(
  facts: UnitFacts,
  { componentId, to }: Hop,
  { contentSha256, identity }: ShelfEntry,
): UnitFacts {
  return {
    ...facts,
    versions: to === undefined ? facts.versions : { ...facts.versions, [componentId]: to },
    digests: { ...facts.digests, [componentId]: contentSha256 },
    ...(identity?.sequence === undefined
      ? {}
      : { sequences: { ...facts.sequences, [componentId]: identity.sequence } }),
  }
}
