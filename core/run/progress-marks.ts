import type { RunState } from './fold'

/** How much of the open step is acknowledged, from 0 to 1; 0 where nothing is known of it. */
export function progressShare({ progress }: RunState): number {
  return progress ? progress.done / Math.max(1, progress.total) : 0
}

/**
 * Where on the open step's bar something was sent again, from 0 to the share that is done: by the time of each retry
 * between the step's beginning and its last progress.
 */
export function retryMarks(run: RunState): number[] {
  const startedAt = run.open === null ? undefined : run.steps[run.open]?.startedAt
  if (startedAt === undefined || !run.progress) return []
  const span = Math.max(1, run.progress.at - startedAt)
  const share = progressShare(run)
  return run.retries
    .filter(({ step }) => step === run.open)
    .map(({ at }) => Math.min(1, Math.max(0, (at - startedAt) / span)) * share)
}
