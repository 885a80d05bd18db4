import type { DrivenLink } from '@bench-wake/core/family'
import type { Release } from '@bench-wake/core/kernel'
import { linkResumes } from '@bench-wake/core/link'
import type { Gate } from '@bench-wake/core/ready'
import {
  bareSteps,
  conditionOf,
  goesOnFrom,
  goesOnWith,
  powerStood,
  type RunRequest,
  type WakeBody,
} from '@bench-wake/core/run'
import { knownPage, lineOf, type Snapshot } from '@bench-wake/core/unit'
import type { Speed } from '../ports/port-clock'
import type { OpenJob } from '../store/jobs'
import { benchOfRun, runImageOf, imageOfRun, wroteOf } from './run-facts'

/** A job on its way into a run: over which link and port, released by whom. */
export interface LegForm {
  runId: string
  open: OpenJob
  link: DrivenLink | null
  port: { id: string; name: string; standIn: boolean }
  speed: Speed
  gates: readonly Gate[]
  releases: readonly Release[]
  names: 'typed' | 'signed-in' | undefined
  /** Pages of the unit in the order in which they were recorded, oldest first. */
  snapshots: readonly Snapshot[]
}

/** Components after the first, as far as this program carries their write out. */
const alsoOf = ({ pieces }: OpenJob) =>
  pieces.slice(1).flatMap((piece) => (piece.open ? [{ ...piece, open: piece.open }] : []))

const chipOf = ({ job, bench }: OpenJob) => (job.task === 'chip' ? bench.chip : undefined)

/** What the wake says first: a run opened, or the next leg of the one before. */
export function openingOf({
  runId,
  open,
  link,
  port,
  speed,
  gates,
  releases,
  names,
  snapshots,
}: LegForm): WakeBody {
  const { job, unit, family, component, before, bench } = open
  const leg = {
    port,
    speed,
    ...(link ? { link: { id: link.id, name: link.name } } : {}),
    ...benchOfRun(open),
    floorVolts: family.power.floorVolts,
    releases: [...releases],
    ...(names ? { names } : {}),
    plan: bareSteps(open.plan),
    bench,
    gates: gates.map(({ id, name, verdict, findings }) => ({ id, name, verdict, findings })),
  }
  if (before) {
    const goesOnAt = goesOnFrom(before.state)
    return {
      type: 'leg.opened',
      leg: before.state.leg + 1,
      ...(goesOnAt !== null && link && linkResumes(link) ? { goesOnAt } : {}),
      ...leg,
    }
  }
  const chip = chipOf(open)
  const also = alsoOf(open)
  const from = lineOf(knownPage(snapshots), `version.${component.id}`)
  return {
    type: 'run.opened',
    runId,
    job: { id: job.id, reason: job.reason },
    unit: { id: unit.id, name: unit.name, place: unit.place, serial: unit.serial },
    family: { id: family.id, revision: family.revision, name: family.name },
    component: { id: component.id, name: component.name },
    ...(job.task === 'write' ? {} : { task: job.task }),
    ...(chip ? { chip } : {}),
    ...(open.open ? { image: imageOfRun(component, open.open) } : {}),
    ...(also.length > 0
      ? {
          also: also.map((piece) => ({
            component: { id: piece.component.id, name: piece.component.name },
            image: imageOfRun(piece.component, piece.open),
          })),
        }
      : {}),
    ...(Object.keys(unit.answers).length > 0 ? { answers: unit.answers } : {}),
    ...(from === undefined ? {} : { from }),
    ...leg,
  }
}

/** What the run is about: the job as the engine takes it. */
export function runRequestOf({ open, link, releases, snapshots }: LegForm): RunRequest {
  const { job, unit, family, component, before, known } = open
  const chip = chipOf(open)
  const alreadyWritten =
    before !== null && !['as-it-was', 'in-bootloader'].includes(conditionOf(before.state))
  return {
    task: job.task,
    family,
    component,
    link,
    unit: { id: unit.id, serial: unit.serial, name: unit.name },
    lastPage: knownPage(snapshots),
    goesOnAt: before && link && linkResumes(link) ? goesOnFrom(before.state) : null,
    ...(before ? { goesOnPiece: goesOnWith(before.state) } : {}),
    alreadyWritten,
    powerStood: powerStood(before?.state ?? null),
    firstPage: alreadyWritten ? (before?.state.before ?? null) : null,
    image: open.open && runImageOf(open.open),
    also: alsoOf(open).map((piece) => ({
      component: piece.component,
      image: runImageOf(piece.open),
      firstHere: piece.known.first,
      wrote: wroteOf(unit.facts, piece.component.id),
    })),
    ...(chip ? { chip } : {}),
    ...(open.bench.onlyChanged ? { onlyChanged: true } : {}),
    ...(open.medium ? { medium: open.medium } : {}),
    ...(open.bench.fuses ? { fuses: open.bench.fuses } : {}),
    firstHere: known.first,
    wrote: wroteOf(unit.facts, component.id),
    use: unit.answers,
    releases,
  }
}
