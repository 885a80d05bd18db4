import { cameToItsEnd, conditionOf, midway, type RunState, type Station, type StationId } from '../run'

/** Stations that a person may open again; what comes later is the run's own. */
const changeable: readonly StationId[] = ['unit', 'image', 'bench']

/**
 * Earlier stations that may be opened again, and with one of them open the one at which the job stands: none of a closed job,
 * none while a run is under way, none after a proof.
 * @param opened the one that is open again; null while none is.
 */
export function openable(
  stations: readonly Station[],
  { closed, run, opened }: { closed: boolean; run: RunState | null; opened: StationId | null },
): StationId[] {
  if (closed || run?.outcome === 'running' || (run && cameToItsEnd(run))) return []
  return stations.flatMap(({ id, state }) =>
    (state === 'done' && changeable.includes(id)) || (state === 'open' && opened !== null) ? [id] : [],
  )
}

/** What changing a station again means for what was said after it. */
export function meaningOf(station: StationId, run: RunState | null): string {
  switch (station) {
    case 'unit':
      return 'A page that is read now is the newest: fit, way and gates are judged by it.'
    case 'image':
      return run?.facts.image && midway.has(conditionOf(run))
        ? `The unit holds a part of ${run.facts.image.name}. Another image is written from its first byte; nothing of this one is used.`
        : 'Fit, way and time follow the image. What was said of the bench stays.'
    case 'bench':
      return 'Nothing that was said here is lost. What is changed is judged at once.'
    case 'close':
      return 'Nothing more is written. The job can be opened again later.'
    default:
      return ''
  }
}
