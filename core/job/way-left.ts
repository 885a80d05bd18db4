import { judgeWay, type Fit, type PathQuestion } from '../fit'
import { conditionOf, midway, piecesOf, type RunState } from '../run'

/** An image of which a unit holds a part, or all without a proof. */
export interface LeftInUnit {
  componentId: string
  imageId: string
}

/** What a run that broke off left in the unit, component by component; empty where it changed nothing, or was proved. */
export function leftBy(last: RunState | null): LeftInUnit[] {
  if (!last || last.outcome === 'running' || !midway.has(conditionOf(last))) return []
  return piecesOf(last.facts).flatMap(({ component, image }, index) =>
    last.pieces[index] === 'untouched' ? [] : [{ componentId: component.id, imageId: image?.id ?? '' }],
  )
}

/**
 * The answer about an image for a unit in which a write broke off. What was erased is not there any more: the version of the
 * page before says nothing of it, neither that there is nothing to do nor that this is a step back. Only a way over the image
 * that was being written goes on as it was planned.
 * @param left empty where nothing was left behind.
 */
export function judgeWayLeft(
  question: PathQuestion,
  componentId: string | undefined,
  left: readonly LeftInUnit[],
): Fit {
  const planned = judgeWay(question, componentId)
  if (left.every((each) => planned.path.some(({ imageId }) => imageId === each.imageId))) return planned
  const gone = new Set(left.map((each) => each.componentId))
  const kept = (of: Readonly<Record<string, string>> = {}) =>
    Object.fromEntries(Object.entries(of).filter(([id]) => !gone.has(id)))
  const { versions, digests } = question.unit
  const unit = { ...question.unit, versions: kept(versions), digests: kept(digests) }
  return judgeWay({ ...question, unit }, componentId)
}
