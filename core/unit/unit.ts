import type { Family, Revision } from '../family'
import { lineOf, type Snapshot, type SnapshotLine, type SnapshotSource } from './snapshot'

/** One piece of equipment. What it is now is told by its snapshots, never kept a second time. */
export interface Unit {
  id: string
  familyId: string
  name: string
  place: string
  serial: string
}

/** Ids of units that only stand for another one in practice begin with this. */
export const practicePrefix = 'practice-'
/** Whether a unit is one that was made for practice. */
export const isPractice = (unitId: string): boolean => unitId.startsWith(practicePrefix)

/** What is known of a unit from its snapshots; a missing member is not known. */
export interface UnitFacts {
  deviceIdentifier?: string
  hardware?: string
  hardwareMajor?: number
  /** Lines that tell different revisions, in words; then `hardwareMajor` is not known. */
  contradiction?: string
  /** Lines that should tell the revision and tell none that the profile knows, in words (PRACTICE A4). */
  unknownSign?: string
  model?: string
  serial?: string
  batch?: string
  layout?: string
  /** Version by component id. */
  versions: Record<string, string>
  /** What the component on the unit was built with, by component id: "watchdog+inverted", "none". */
  options?: Record<string, string>
  /** RFC 9124 sequence number of what is on the unit, by component id. */
  sequences?: Record<string, number>
  /** SHA-256 of what is on the unit, by component id. */
  digests?: Record<string, string>
  readAt?: number
  /** True where the bootloader was the last to answer: what is on the unit may be half an image. */
  inBootloader?: true
  source?: Snapshot['source']
}

/**
 * Reads a unit's facts off a snapshot. Where the profile lists signs for its hardware revisions (a version's leading
 * digits, a chip's marking), these tell the major; else the first number of the line `hardware` does: "3.1" is 3.
 */
export function factsOf(snapshot: Snapshot | undefined, family?: Family): UnitFacts {
  const facts: UnitFacts = { versions: {} }
  if (!snapshot) return facts
  facts.readAt = snapshot.at
  facts.source = snapshot.source
  if (snapshot.inBootloader) facts.inBootloader = true
  for (const field of ['deviceIdentifier', 'hardware', 'model', 'serial', 'batch', 'layout'] as const) {
    const value = lineOf(snapshot, field)
    if (value !== undefined) facts[field] = value
  }
  for (const { field, value } of snapshot.lines) {
    const [kind, component] = [field.slice(0, field.indexOf('.')), field.slice(field.indexOf('.') + 1)]
    if (kind === 'version') facts.versions[component] = value
    else if (kind === 'options') facts.options = { ...facts.options, [component]: value }
    else if (kind === 'digest') facts.digests = { ...facts.digests, [component]: value.toLowerCase() }
    else if (kind === 'sequence' && /^\d{1,15}$/.test(value)) {
      facts.sequences = { ...facts.sequences, [component]: Number(value) }
    }
  }
  const told = family ? toldRevisions(family, snapshot) : []
  if (told.length > 0) {
    const majors = [...new Set(told.map(({ revision }) => revision.major))]
    if (majors.length === 1) facts.hardwareMajor = majors[0]!
    else
      facts.contradiction = told
        .map(({ revision, line }) => `${line.label} ${line.value} tells ${revision.name}`)
        .join('; ')
    facts.hardware ??= told[0]!.revision.name
  } else if (family && strangeSigns(family, snapshot).length > 0) {
    facts.unknownSign = strangeSigns(family, snapshot)
      .map(({ label, value }) => `${label} ${value}`)
      .join('; ')
  } else if (facts.hardware !== undefined && !family?.hardware.revisions.some(({ markings }) => markings)) {
    const major = /^\d+/.exec(facts.hardware)
    if (major) facts.hardwareMajor = Number(major[0])
  }
  return facts
}

/** Every sign on the page that tells a revision (PRACTICE A3, A4). */
function toldRevisions(family: Family, snapshot: Snapshot): { revision: Revision; line: SnapshotLine }[] {
  return family.hardware.revisions.flatMap((revision) =>
    (revision.markings ?? []).flatMap(({ field, startsWith }) => {
      const line = snapshot.lines.find((each) => each.field === field)
      return line && line.value.trim().startsWith(startsWith) ? [{ revision, line }] : []
    }),
  )
}

/** Lines on which signs are looked for and that carry none. */
function strangeSigns(family: Family, snapshot: Snapshot): SnapshotLine[] {
  const fields = new Set(
    family.hardware.revisions.flatMap(({ markings }) => (markings ?? []).map(({ field }) => field)),
  )
  return snapshot.lines.filter(({ field }) => fields.has(field))
}

/** The newest of a unit's snapshots: the one that was recorded last, whatever the clock said. Oldest first. */
export function newestSnapshot<S extends Snapshot>(snapshots: readonly S[]): S | undefined {
  return snapshots.at(-1)
}

const lasting: ReadonlySet<string> = new Set(['label', 'chip-marking'])
/** True for what stays as it is whatever is written: a label, a chip's marking. */
export const isLasting = (source: SnapshotSource): boolean => lasting.has(source)

/**
 * What is known now: the newest page that the unit said of itself, and with it what labels and chips show, which
 * does not change with the firmware. A line the unit says outweighs the label's. A page of the bootloader says less: what
 * it cannot say stands as it was last said, since a unit in its bootloader has no version of its own.
 * A page on which nothing could be read says nothing, and outweighs none that was.
 * @param recorded in the order in which they were recorded, oldest first; a clock that stood ahead decides nothing.
 */
export function knownPage(recorded: readonly Snapshot[]): Snapshot | undefined {
  const snapshots = recorded.filter(
    ({ lines, inBootloader }) => inBootloader || lines.some(({ value }) => value.trim() !== ''),
  )
  const own = snapshots.filter(({ source }) => !isLasting(source))
  const said = newestSnapshot(own)
  const newest = newestSnapshot(snapshots)
  if (!newest) return undefined
  const lines = new Map<string, SnapshotLine>()
  for (const page of snapshots) {
    for (const line of page.lines) {
      if (isLasting(line.source ?? page.source))
        lines.set(line.field, { ...line, source: line.source ?? page.source })
    }
  }
  const told = [...(said?.lines ?? [])]
  if (said?.inBootloader) {
    const before = newestSnapshot(own.filter(({ inBootloader }) => !inBootloader))
    const again = new Set(told.map(({ field }) => field))
    told.push(...(before?.lines ?? []).filter(({ field }) => !again.has(field)))
  }
  for (const { field } of told) lines.delete(field)
  const { at, source } = said ?? newest
  return {
    at,
    source,
    lines: [...told, ...lines.values()],
    ...(said?.inBootloader ? { inBootloader: true } : {}),
  }
}

/** A clock that was set back between two pages, or stood ahead: the later one bears the earlier time. */
export interface ClockJump {
  /** Times as the pages bear them, ms since 1970: of the one recorded first, and of the next. */
  from: number
  to: number
}

/** Less than this is two programs' difference and no jump, ms. */
const jumpMs = 1000

/** Where the clock jumped back among pages in the order in which they were recorded. */
export function clockJumps(snapshots: readonly Pick<Snapshot, 'at'>[]): ClockJump[] {
  return snapshots.flatMap(({ at }, index) => {
    const before = snapshots[index - 1]
    return before && before.at - at > jumpMs ? [{ from: before.at, to: at }] : []
  })
}

/** Versions on one line: "main 2.41", "power 3.4, panel 3.3", "all 6 at 5.1"; empty where none is known. */
export function versionsText(versions: Readonly<Record<string, string>>): string {
  const all = Object.entries(versions)
  const [first] = all
  if (first && all.length > 2 && all.every(([, version]) => version === first[1])) {
    return `all ${all.length} at ${first[1]}`
  }
  return all.map(([component, version]) => `${component} ${version}`).join(', ')
}
