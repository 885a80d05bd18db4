import type { PostUpdateTask, Family } from '../family'
import { inSentence } from '../kernel'
import type { BenchInputs } from '../ready'
import type { RunState } from './fold'

/** One thing that is due after the proof, with what was said of it. */
export interface PostUpdateTaskState extends PostUpdateTask {
  said: RunState['aftercare'][number] | null
}

/**
 * What is due after a proved run, in order, with what became of each (PRACTICE I2, I3, J1, J2). A neighbour that runs
 * as a pair with the unit has to say the same version: it is looked at too.
 * @param said of the bench: which neighbours were taken off.
 */
export function postUpdateTasksOf(
  family: Pick<Family, 'postUpdateTasks' | 'isolation'>,
  state: RunState,
  said: Pick<BenchInputs, 'isolation'> = {},
): PostUpdateTaskState[] {
  const version = state.facts.image?.version ?? state.facts.chip?.version
  const pairs = (family.isolation?.neighbours ?? [])
    .filter(({ id, pair }) => pair && said.isolation?.unplugged?.includes(id))
    .map(({ id, name }): PostUpdateTask => ({
      id: `pair-${id}`,
      kind: 'function-test',
      does: `Read the version of ${inSentence(name)}: a pair runs one version.`,
      expect:
        version === undefined ? 'The same as here.' : `It says ${version} too; else it is written next.`,
      needs: [id],
    }))
  return [...(family.postUpdateTasks ?? []), ...pairs].map((item) => ({
    ...item,
    said: state.aftercare.find(({ item: id }) => id === item.id) ?? null,
  }))
}

/** What still keeps the job from being closed: nothing said of it, or not well and without a word on why. */
export const postUpdateTasksLeft = (tasks: readonly PostUpdateTaskState[]): PostUpdateTaskState[] =>
  tasks.filter(({ said }) => !said || (said.outcome === 'failed' && !said.note?.trim()))
