import type { Verdict } from '../kernel'
import { checkText } from '../link'
import { cameToItsEnd, troubleAt } from './condition'
import { type RunState } from './fold'
import type { StepKind } from './step'
import type { Task } from './task'

/** The stations of a job, in the order of the trade. */
export const stations = ['unit', 'image', 'bench', 'entry', 'write', 'proof', 'close'] as const
export type StationId = (typeof stations)[number]

/** A station of a job, as the list of them shows it. */
export interface Station {
  id: StationId
  name: string
  state: 'done' | 'open' | 'waiting'
  verdict: Verdict
  /** Done: its result. Open: what it is about. Waiting: what for. */
  says: string
}

/** What the stations of a job are made from. */
export interface KeelFacts {
  /** What the job is for; a write where nothing is said. */
  task?: Task
  now: number
  /** When the unit was last read, ms since 1970; null for never. */
  unitReadAt: number | null
  unitSays: string
  image: { says: string; verdict: Verdict } | null
  run: RunState | null
  closed: boolean
}

/** A page this old is read again before a job: units are swapped between visits (common practice). */
export const freshForMs = 12 * 3_600_000

const stationOf: Record<StepKind, StationId> = {
  'power-up': 'entry',
  connect: 'entry',
  identify: 'entry',
  settings: 'entry',
  enter: 'entry',
  swap: 'write',
  media: 'write',
  backup: 'write',
  compare: 'write',
  'dry-run': 'write',
  erase: 'write',
  write: 'write',
  verify: 'write',
  fuses: 'write',
  restart: 'proof',
  prove: 'proof',
  look: 'proof',
  faults: 'proof',
}

const names: Record<StationId, string> = {
  unit: 'Unit',
  image: 'Image',
  bench: 'Bench',
  entry: 'Entry',
  write: 'Write',
  proof: 'Proof',
  close: 'Close',
}

const waitsFor: Record<StationId, string> = {
  unit: 'read the unit first',
  image: 'an image that fits',
  bench: 'port, supply and plan',
  entry: 'into the bootloader',
  write: 'erase, write, compare',
  proof: 'power off and on, then read again',
  close: 'name and last word',
}

/** Stations that a task does without. */
const without: Record<Task, readonly StationId[]> = {
  write: [],
  'read-out': ['image'],
  check: [],
  codes: ['image', 'write'],
  chip: [],
}
/** What a station is called, and what it waits for, where nothing is written. */
const instead: Record<Exclude<Task, 'write'>, Partial<Record<StationId, { name: string; waits: string }>>> = {
  'read-out': {
    write: { name: 'Read out', waits: 'twice, and kept' },
    proof: { name: 'Restart', waits: 'power off and on, then read again' },
  },
  check: {
    write: { name: 'Compare', waits: 'the image with the unit' },
    proof: { name: 'Restart', waits: 'power off and on, then read again' },
  },
  chip: {
    image: { name: 'Chip', waits: 'its label and its mark' },
  },
  codes: {
    entry: { name: 'Link', waits: 'the port, and what the unit says' },
    proof: { name: 'Codes', waits: 'read; cleared only if you say so' },
  },
}

/** The stations of a job with the one that is open; exactly one is, until the job is closed. */
export function jobStations(facts: KeelFacts): Station[] {
  const { task = 'write' } = facts
  const open = openStation(facts)
  const own = stations.filter((id) => !without[task].includes(id))
  const openAt = own.indexOf(open)
  return own.map((id, index) => {
    const state = facts.closed || index < openAt ? 'done' : index === openAt ? 'open' : 'waiting'
    const other = task === 'write' ? undefined : instead[task][id]
    const said = sayOf(id, state, facts)
    return {
      id,
      name: other?.name ?? names[id],
      state,
      ...said,
      says: state === 'waiting' && other ? other.waits : said.says,
    }
  })
}

/** The station that the job is at. */
export function openStation({ task = 'write', now, unitReadAt, image, run, closed }: KeelFacts): StationId {
  if (closed || (run && cameToItsEnd(run))) return 'close'
  if (run) {
    const at = run.steps.find((step) => step.state === 'broken' || step.state === 'open')
    const next = run.steps.find((step) => step.state === 'waiting')
    return stationOf[(at ?? next ?? run.steps[run.steps.length - 1])?.kind ?? 'connect']
  }
  // A run that writes nothing reads the unit first of all by itself.
  if ((task === 'write' || task === 'chip') && (unitReadAt === null || now - unitReadAt > freshForMs))
    return 'unit'
  if (!without[task].includes('image') && (!image || image.verdict === 'stop' || image.verdict === 'unknown'))
    return 'image'
  return 'bench'
}

function sayOf(
  id: StationId,
  state: Station['state'],
  { image, run, unitSays }: KeelFacts,
): Pick<Station, 'verdict' | 'says'> {
  if (state === 'waiting') return { verdict: 'unknown', says: waitsFor[id] }
  if (id === 'unit') return { verdict: state === 'done' ? 'go' : 'unknown', says: unitSays }
  if (id === 'image') return image ?? { verdict: 'unknown', says: 'none chosen' }
  if (!run) return { verdict: 'unknown', says: waitsFor[id] }
  if (state === 'open' && run.outcome !== 'running' && !cameToItsEnd(run)) {
    return { verdict: 'stop', says: troubleAt(run) ?? 'did not reach its end' }
  }
  if (state === 'open') return { verdict: 'unknown', says: openSays(run) ?? waitsFor[id] }
  return { verdict: verdictOf(id, run), says: doneSays(id, run) }
}

function openSays(run: RunState): string | undefined {
  const step = run.open === null ? undefined : run.steps[run.open]
  if (!step) return undefined
  const { progress } = run
  return progress && progress.total > 0
    ? `${step.kind}, ${Math.floor((progress.done / progress.total) * 100)} %`
    : step.says
}

function verdictOf(id: StationId, run: RunState): Verdict {
  const noisy = run.retries.some(({ step }) => stationOf[run.steps[step]!.kind] === id)
  return noisy || (id === 'bench' && run.facts.releases.length > 0) ? 'note' : 'go'
}

function doneSays(id: StationId, run: RunState): string {
  const retries = run.retries.filter(({ step }) => stationOf[run.steps[step]!.kind] === id).length
  const again = retries ? `, ${retries} ${retries === 1 ? 'retry' : 'retries'}` : ''
  switch (id) {
    case 'bench':
      return run.facts.releases.length
        ? `go, released by ${run.facts.releases[0]!.name}`
        : run.facts.port.name
    case 'entry':
      if (run.steps.some(({ kind }) => kind === 'swap' || kind === 'media')) return 'power as ordered'
      return run.notes.length ? `already in the bootloader${again}` : `in the bootloader${again}`
    case 'write':
      if (run.backups.length > 0 && run.facts.task === 'read-out') return `kept${again}`
      if (run.heldAgainst && run.facts.task === 'check') return checkText(run.heldAgainst)
      return run.verified ? `written, ${checkText(run.verified)}${again}` : `written${again}`
    case 'proof':
      if (run.facts.task === 'codes') return run.faults ? run.faults.before : 'not read'
      if (run.facts.chip?.version) return `the unit shows ${run.facts.chip.version}`
      return run.facts.image?.version && run.facts.task === undefined
        ? `the unit says ${run.facts.image.version}`
        : 'read again'
    default:
      return 'done'
  }
}
