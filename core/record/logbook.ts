import type { RunState } from '../run'
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
  /** What went wrong, in a sentence; null when nothing did. */
  trouble: string | null
  verifiedBy: string | null
  startedAt: number
  tookMs: number
  bytesAcknowledged: number
  retries: number
  lowestVolts: number | null
  port: string
  standIn: boolean
  strip: Strip
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
    from: line(state.before),
    to: line(state.after),
    outcome: state.outcome,
    trouble: troubleOf(state),
    verifiedBy: state.verified?.ok ? state.verified.how : null,
    startedAt: state.startedAt,
    tookMs: (state.endedAt ?? state.at) - state.startedAt,
    bytesAcknowledged: state.acknowledged,
    retries: state.retries.length,
    lowestVolts: state.supply.length ? Math.min(...state.supply.map(({ volts }) => volts)) : null,
    port: facts.port.name,
    standIn: facts.port.standIn,
    strip: stripOf(state),
  }
}

/** What stopped a run, in a sentence; for a cut one at which byte. */
export function troubleOf(state: RunState): string | null {
  const broken = state.steps.find((step) => step.state === 'broken')
  const bytes = state.facts.image.bytes
  const where = broken?.kind === 'write' ? ` at byte ${state.acknowledged} of ${bytes}` : ''
  if (state.outcome === 'cut') return `Cut${broken ? ` in ${broken.kind}` : ''}${where}.`
  if (state.outcome === 'failed') return `${capital(state.problem?.says ?? 'It failed')}${where}.`
  if (state.outcome === 'abandoned') return `Abandoned${where}.`
  return null
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)
