import { componentOf, type Component, type Family, type FamilyLink } from '@bench-wake/core/family'
import type { Hop } from '@bench-wake/core/fit'
import { isProblem, type Finding } from '@bench-wake/core/kernel'
import {
  judgeTask,
  loadsOf,
  piecesOf,
  planElsewhere,
  planMedium,
  planPieces,
  planSwap,
  planTask,
  timeOf,
  timePlan,
  type Learned,
  type LookTask,
  type PlanTime,
  type Step,
  type Task,
  type TimedStep,
} from '@bench-wake/core/run'
import type { KnownInside } from '@bench-wake/core/ready'
import type { Database } from '../db/open'
import type { OpenJob } from './jobs'
import { learnedOf } from './learned'
import type { ListedRun } from './runs'
import type { OpenImage, Shelf } from './shelf'

/* What a job has still to do, in steps: the write that comes next, the writes after it, a task that writes nothing. */

/** A second try is a new leg of the same run: of the same task, of the same image, for the same component. */
export function legBefore(
  [last]: readonly ListedRun[],
  form: { task: Task; pieces: readonly { imageId: string | undefined; componentId: string }[] },
): ListedRun | null {
  if (!last || !['cut', 'failed', 'abandoned'].includes(last.state.outcome)) return null
  const { task = 'write' } = last.state.facts
  const had = piecesOf(last.state.facts)
  const same =
    had.length === form.pieces.length &&
    had.every(({ component, image }, index) => {
      const { componentId, imageId } = form.pieces[index]!
      return component.id === componentId && image?.id === imageId
    })
  return task === form.task && same ? last : null
}

/** Times of the job's own link: where a family has one alone, every run went over it. */
export const learnedFor = (db: Database, { id, links }: Family, link: FamilyLink | null) =>
  learnedOf(db, id, links.length > 1 ? link?.id : undefined)

/** One component of a write, with the image that goes into it and what is known of what is in it. */
export interface OpenPiece {
  hop: Hop
  component: Component
  /** Null where neither this program nor hands carry the write out. */
  open: OpenImage | null
  known: KnownInside & { first: boolean }
}

/** Opens what one stay in the bootloader writes, component by component. */
export const openPieces = (
  shelf: Shelf,
  { family, carried }: { family: Family; carried: boolean },
  stay: readonly Hop[],
  knownOf: (hop: Hop) => OpenPiece['known'],
): Promise<OpenPiece[]> =>
  Promise.all(
    stay.map(async (hop) => ({
      hop,
      component: componentOf(family, hop.componentId),
      open: carried ? await shelf.open(hop.imageId) : null,
      known: knownOf(hop),
    })),
  )

/** What the plan of a job rests on. */
export type PlannedJob = Pick<OpenJob, 'family' | 'link' | 'byHand' | 'workshopRules' | 'bench' | 'medium'>

/** The steps of one stay in the bootloader, by whoever carries them out. */
export async function stepsOf(
  shelf: Shelf,
  { family, link, byHand, workshopRules, bench, medium }: PlannedJob,
  pieces: readonly OpenPiece[],
): Promise<Step[]> {
  const opened = pieces.flatMap(({ open, component, known }) =>
    open ? [{ component, known, loads: loadsOf(component, open.memory) }] : [],
  )
  if (link && opened.length === pieces.length)
    return planPieces(family, link, opened, workshopRules, bench.fuses)
  const [{ component, hop }] = pieces as [OpenPiece]
  if (medium) return planMedium(family, component, medium)
  if (byHand) return planSwap(family, component)
  return planElsewhere(family, component, (await shelf.image(hop.imageId)).segments)
}

/** A task that writes nothing: its steps, and whether it can be done. */
export async function lookOf(
  shelf: Shelf,
  form: Pick<OpenJob, 'family' | 'component' | 'link' | 'image' | 'bench'> & { task: LookTask },
): Promise<{ steps: Step[]; finding: Finding; open: OpenImage | null }> {
  const { task, family, component, link, image, bench } = form
  const open = task === 'check' && image && link ? await shelf.open(image.id) : null
  const judged = (trouble?: string) =>
    judgeTask(
      task,
      component,
      link,
      { chosen: image !== null, trouble },
      { socket: family.chipReplacement !== undefined, said: bench.chip },
    )
  try {
    const loads = open ? loadsOf(component, open.memory) : []
    const finding = judged()
    const steps = finding.level !== 'stop' ? planTask(task, family, component, link, loads) : []
    return { steps, finding, open }
  } catch (error) {
    if (!isProblem(error)) throw error
    return { steps: [], finding: judged(`${image!.name}: ${error.facts.says}.`), open: null }
  }
}

/** One write of the whole plan: all that goes into the unit in one stay in its bootloader. */
export interface PlannedWrite {
  hops: Hop[]
  componentNames: string[]
  steps: TimedStep[]
  time: PlanTime
}

export const plannedWrite = (
  pieces: readonly OpenPiece[],
  steps: TimedStep[],
  learned: Learned,
): PlannedWrite => ({
  hops: pieces.map(({ hop }) => hop),
  componentNames: pieces.map(({ component }) => component.name),
  steps,
  time: timeOf(steps, learned),
})

/** The writes after the next one: what is in a component by then is on the shelf, for this bench wrote it. */
export async function laterWrites(
  shelf: Shelf,
  job: PlannedJob,
  [next = [], ...later]: readonly (readonly Hop[])[],
  knownOf: (hop: Hop) => OpenPiece['known'],
  learned: Learned,
): Promise<PlannedWrite[]> {
  const begun = new Set(next.map(({ componentId }) => componentId))
  const carried = job.link !== null || job.byHand
  const writes: PlannedWrite[] = []
  for (const stay of later) {
    const pieces = await openPieces(shelf, { family: job.family, carried }, stay, (hop) =>
      begun.has(hop.componentId) ? { ...knownOf(hop), inside: hop.imageName } : knownOf(hop),
    )
    for (const { componentId } of stay) begun.add(componentId)
    writes.push(plannedWrite(pieces, timePlan(await stepsOf(shelf, job, pieces), learned), learned))
  }
  return writes
}
