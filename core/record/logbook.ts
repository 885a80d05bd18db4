import { cameTo, foundOut, type CameTo } from '../job'
import type { CheckOutcome } from '../link'
import { troubleAt, type RunState, type Task } from '../run'
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
  /** What it was for. */
  task: Task
  /** Empty where nothing was written or compared. */
  imageName: string
  imageSha256: string
  /** What a task that writes nothing found out. */
  foundOut: string | null
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
  /** What the check after the write came to, or the one that was asked for; null where none was reached. */
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

/** One of several, with how many more went with it. */
const andMore = (name: string, { also = [] }: RunState['facts']) =>
  also.length > 0 ? `${name} and ${also.length} more` : name

/** A run as a line of the logbook. */
export function logbookRow(state: RunState): LogbookRow {
  const { facts } = state
  const versionField = `version.${facts.component.id}`
  const line = (snapshot: RunState['before']) =>
    snapshot?.lines.find((each) => each.field === versionField)?.value ?? null
  const check = facts.task === 'check' ? state.heldAgainst : state.verified
  return {
    runId: facts.runId,
    jobId: facts.job.id,
    unitId: facts.unit.id,
    unitName: facts.unit.name,
    place: facts.unit.place,
    serial: facts.unit.serial,
    family: facts.family.name,
    component: andMore(facts.component.name, facts),
    task: facts.task ?? 'write',
    foundOut: foundOut(state),
    imageName: facts.image ? andMore(facts.image.name, facts) : '',
    imageSha256: facts.image?.sha256 ?? '',
    from: line(state.before) ?? facts.from ?? null,
    to: line(state.after),
    outcome: state.outcome,
    cameTo: state.outcome === 'running' ? null : cameTo(state),
    trouble: troubleAt(state),
    legs: state.leg,
    legTroubles: state.pastLegs.flatMap(({ trouble }) => (trouble ? [trouble] : [])),
    check: check?.outcome ?? null,
    verifiedBy: verifiedBy[check?.outcome ?? 'not-comparable'] ?? null,
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
