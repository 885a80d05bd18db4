import { lineOf, type Snapshot } from './snapshot'

/** One piece of equipment. What it is now is told by its snapshots, never kept a second time. */
export interface Unit {
  id: string
  familyId: string
  name: string
  place: string
  serial: string
}

/** What is known of a unit from its newest snapshot; a missing member is not known. */
export interface UnitFacts {
  deviceIdentifier?: string
  hardware?: string
  hardwareMajor?: number
  serial?: string
  /** Version by component id. */
  versions: Record<string, string>
  readAt?: number
  source?: Snapshot['source']
}

/** Reads a unit's facts off a snapshot. `hardware` reads "3.1" or "3": the first number is the major. */
export function factsOf(snapshot: Snapshot | undefined): UnitFacts {
  const facts: UnitFacts = { versions: {} }
  if (!snapshot) return facts
  facts.readAt = snapshot.at
  facts.source = snapshot.source
  const device = lineOf(snapshot, 'deviceIdentifier')
  if (device !== undefined) facts.deviceIdentifier = device
  const serial = lineOf(snapshot, 'serial')
  if (serial !== undefined) facts.serial = serial
  const hardware = lineOf(snapshot, 'hardware')
  if (hardware !== undefined) {
    facts.hardware = hardware
    const major = /^\d+/.exec(hardware)
    if (major) facts.hardwareMajor = Number(major[0])
  }
  for (const { field, value } of snapshot.lines) {
    const component = /^version\.(.+)$/.exec(field)?.[1]
    if (component) facts.versions[component] = value
  }
  return facts
}

/** The newest of a unit's snapshots. */
export function newestSnapshot<S extends Snapshot>(snapshots: readonly S[]): S | undefined {
  return snapshots.reduce<S | undefined>(
    (newest, each) => (!newest || each.at >= newest.at ? each : newest),
    undefined,
  )
}
