import { jobStations, type RunState, type Station } from '@bench-wake/core/run'
import { factsOf, versionsText } from '@bench-wake/core/unit'
import type { JobView } from '@bench-wake/server'
import { agoText } from '../written'

/** The stations of a job: its stations with what each says now. */
export function jobStationsOf(view: JobView, run: RunState | null, now: number): Station[] {
  const { unit, image, fit, job } = view
  // Once a run has begun, the stations tells what it rested on, not what the unit has become since.
  const before = run?.before ? factsOf(run.before) : unit.facts
  const versions = versionsText(before.versions)
  const hop = fit?.path.at(-1)
  const writes = fit && fit.path.length > 1 ? `${fit.path.length} writes` : 'one step'
  return jobStations({
    task: job.task,
    now,
    unitReadAt: unit.facts.readAt ?? null,
    unitSays: before.readAt
      ? [
          versions || 'version not known',
          `hardware ${before.hardware ?? 'not known'}`,
          `read ${agoText(before.readAt)}`,
        ].join(', ')
      : 'never read',
    image: run
      ? {
          verdict: 'go',
          says:
            run.facts.chip?.label ??
            (run.facts.task === 'check'
              ? (run.facts.image?.name ?? '')
              : `${run.facts.component.id} ${run.facts.image?.version ?? ''}, fits`),
        }
      : image && fit
        ? {
            verdict: fit.verdict,
            says:
              fit.verdict === 'stop'
                ? 'does not fit'
                : `${hop?.componentId} ${hop?.to ?? 'no version'}, ${fit.verdict === 'hold' ? 'held' : 'fits'}, ${writes}`,
          }
        : job.task === 'chip' && view.bench.chip
          ? { verdict: view.need.finding.level, says: view.bench.chip.label }
          : image && job.task === 'check'
            ? { verdict: view.need.finding.level, says: image.name }
            : null,
    run: run,
    closed: job.closedAt !== null,
  })
}
