import { cameTo, type CameTo } from '../job'
import type { CheckOutcome } from '../link'
import { troubleAt, type RunState } from '../run'
import { stripOf, type Strip } from './strip'

/** A run as the logbook shows it: PRACTICE J4, who, what unit, which image, from what to what, how long, what went wrong. */
export interface LogbookRow {
  runId: string
  jobId: string
  unitId: string
  unitName: string
  place: string
  serial: string
  family: string
  component: string
  imageName: string
  imageSha256: string
  from: string | null
  to: string | null
  outcome: RunState['outcome']
  /** What it came to for whoever uses the unit; null while it is under way. */
  cameTo: CameTo | null
  /** What went wrong, in a sentence; null when nothing did. */
  trouble: string | null
  /** Legs it took, and what ended each of those before the last. */
  legs: number
  legTroubles: string[]
  /** What the check after the write came to; null where none was reached. */
  check: CheckOutcome | null
  /** By which means it was equal; null where it was not compared, or not the same. */
  verifiedBy: 'read-back' | 'checksum' | null
  startedAt: number
  tookMs: number
  bytesAcknowledged: number
  retries: number
  lowestVolts: number | null
  port: string
  /** Cable or adapter, where it was said. */
  adapter: string | null
  standIn: boolean
  strip: Strip
}

const verifiedBy: Partial<Record<CheckOutcome, LogbookRow['verifiedBy']>> = {
  'equal-read-back': 'read-back',
  'equal-checksum': 'checksum',
}

export function logbookRow(state: RunState): LogbookRow {
  const { facts } = state
  const versionField = `version.${facts.component.id}`
  const line = (snapshot: RunState['before']) =>
    snapshot?.lines.find((each) => each.field === versionField)?.value ?? null
  return {
    runId: facts.runId,
    jobId: facts.job.id,
    unitId: facts.unit.id,
    unitName: facts.unit.name,
    place: facts.unit.place,
    serial: facts.unit.serial,
    family: facts.family.name,
    component: facts.component.name,
    imageName: facts.image.name,
    imageSha256: facts.image.sha256,
    from: line(state.before) ?? facts.from ?? null,
    to: line(state.after),
    outcome: state.outcome,
    cameTo: state.outcome === 'running' ? null : cameTo(state),
    trouble: troubleAt(state),
    legs: state.leg,
    legTroubles: state.pastLegs.flatMap(({ trouble }) => (trouble ? [trouble] : [])),
    check: state.verified?.outcome ?? null,
    verifiedBy: verifiedBy[state.verified?.outcome ?? 'not-comparable'] ?? null,
    startedAt: state.startedAt,
    tookMs: (state.endedAt ?? state.at) - state.startedAt,
    bytesAcknowledged: state.acknowledged,
    retries: state.retries.length + state.pastLegs.reduce((sum, past) => sum + past.retries, 0),
    lowestVolts: state.supply.length ? Math.min(...state.supply.map(({ volts }) => volts)) : null,
    port: facts.port.name,
    adapter: facts.adapter?.name ?? null,
    standIn: facts.port.standIn,
    strip: stripOf(state),
  }
}
