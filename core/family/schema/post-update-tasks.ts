import * as v from 'valibot'
import { slug, text } from './fields'

/** What is due after a proof. */
export const postUpdateKinds = [
  'scare',
  'function-test',
  'fault-codes',
  're-learn',
  'bind',
  'settings',
  'options',
  'network',
] as const

/** What is to be done after an update. */
export const PostUpdateTasks = v.pipe(
  v.array(
    v.strictObject({
      id: slug('Short name'),
      kind: v.pipe(v.picklist(postUpdateKinds), v.description('`scare`: alarming and normal; tick it off')),
      does: text('One thing to do: "Relay on and off, cover on"'),
      expect: v.exactOptional(text('What shows that it is well')),
      caution: v.exactOptional(text('Danger at this very step, and who may do it')),
      undoes: v.exactOptional(slug('What it brings back, such as a neighbour that was taken off')),
      needs: v.exactOptional(
        v.pipe(
          v.array(slug('A step, a neighbour, or another item of this list')),
          v.description('What has to be done or back before it; all that comes back where nothing is said'),
        ),
      ),
    }),
  ),
  v.description('After verification, in order: function tests, re-learn, settings back, scares'),
)
/** Something to be done after an update. */
export type PostUpdateTask = v.InferOutput<typeof PostUpdateTasks>[number]
