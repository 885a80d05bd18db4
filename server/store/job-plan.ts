import { componentOf, type Family, type FamilyLink } from '@bench-wake/core/family'
import type { Hop } from '@bench-wake/core/fit'
import { isProblem, type Finding } from '@bench-wake/core/kernel'
import {
  judgeTask,
  loadsOf,
  planElsewhere,
  planRun,
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
import type { Database } from '../db/open'
import type { OpenJob } from './jobs'
import { learnedOf } from './learned'
import type { KeptRun } from './runs'
import type { OpenImage, Shelf } from './shelf'

/* What a job has still to do, in steps: the write that comes next, the writes behind it, a task that writes nothing. */

/** A second try is a new leg of the same run: of the same task, of the same image, for the same component. */
export function legBefore(
  [last]: readonly KeptRun[],
  form: { task: Task; imageId: string | undefined; componentId: string },
): KeptRun | null {
  if (!last || !['cut', 'failed', 'abandoned'].includes(last.state.outcome)) return null
  const { task = 'write', image, component } = last.state.facts
  return task === form.task && image?.id === form.imageId && component.id === form.componentId ? last : null
}

/** Times of the job's own link: where a family has one alone, every run went over it. */
export const learnedFor = (db: Database, { id, links }: Family, link: FamilyLink | null) =>
  learnedOf(db, id, links.length > 1 ? link?.id : undefined)

/** The steps of one write, by whoever carries it out. */
export async function stepsOf(
  shelf: Shelf,
  form: Pick<OpenJob, 'family' | 'component' | 'link' | 'byHand' | 'house' | 'open' | 'known'>,
  hop: Hop,
): Promise<Step[]> {
  const { family, component, link, byHand, house, open, known } = form
  if (open && link) return planRun(family, component, link, loadsOf(component, open.memory), house, known)
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
      { socket: family.swap !== undefined, said: bench.chip },
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

/** One write of the whole plan. */
export interface PlannedWrite {
  hop: Hop
  componentName: string
  steps: TimedStep[]
  time: PlanTime
}

/** The writes behind the next one: what is in a component by then is on the shelf, for this bench wrote it. */
export async function laterWrites(
  shelf: Shelf,
  job: Pick<OpenJob, 'family' | 'link' | 'byHand' | 'house' | 'known'>,
  [next, ...later]: readonly Hop[],
  learned: Learned,
): Promise<PlannedWrite[]> {
  const begun = new Set([next?.componentId])
  const writes: PlannedWrite[] = []
  for (const hop of later) {
    const component = componentOf(job.family, hop.componentId)
    const open = job.link || job.byHand ? await shelf.open(hop.imageId) : null
    const known = begun.has(hop.componentId) ? { ...job.known, inside: hop.imageName } : job.known
    begun.add(hop.componentId)
    const steps = timePlan(await stepsOf(shelf, { ...job, component, open, known }, hop), learned)
    writes.push({ hop, componentName: component.name, steps, time: timeOf(steps, learned) })
  }
  return writes
}
