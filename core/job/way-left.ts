import { judgeWay, type Fit, type PathQuestion } from '../fit'
import { conditionOf, type RunState } from '../run'

/** An image of which a unit holds a part, or all without a proof. */
export interface LeftInUnit {
  componentId: string
  imageId: string
}

/** What a run that broke off left in the unit; null where it changed nothing, or was proved. */
export function leftBy(last: RunState | null): LeftInUnit | null {
  if (!last || last.outcome === 'running') return null
  const condition = conditionOf(last)
  if (condition !== 'half-written' && condition !== 'written-not-verified') return null
  return { componentId: last.facts.component.id, imageId: last.facts.image?.id ?? '' }
}

/**
 * The answer about an image for a unit in which a write broke off. What was erased is not there any more: the version of the
 * page before says nothing of it, neither that there is nothing to do nor that this is a step back. Only a way over the image
 * that was being written goes on as it was planned.
 * @param left null where nothing was left behind.
 */
export function judgeWayLeft(
  question: PathQuestion,
  componentId: string | undefined,
  left: LeftInUnit | null,
): Fit {
  const planned = judgeWay(question, componentId)
  if (!left || planned.path.some(({ imageId }) => imageId === left.imageId)) return planned
  const { [left.componentId]: _version, ...versions } = question.unit.versions
  const { [left.componentId]: _digest, ...digests } = question.unit.digests ?? {}
  return judgeWay({ ...question, unit: { ...question.unit, versions, digests } }, componentId)
}
