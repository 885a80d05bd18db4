import { operations, type FamilyLink, type LinkScript, type OperationName } from '../family'
import { canonicalJson, sha256Hex } from '../kernel'

/** A link whose operations are data. */
export interface ScriptedLink {
  id: string
  line?: FamilyLink['line']
  drive: LinkScript
}
/** The link as one of those; null where it has a protocol of its own, or none. */
export const scripted = (link: FamilyLink | undefined): ScriptedLink | null =>
  link?.drive?.speaks === 'script' ? { ...link, drive: link.drive } : null

/** Which run it was: on what, when, by whom and by which profile. */
export interface TrialOf {
  linkId: string
  /** The unit's name and serial number, and the day as YYYY-MM-DD. */
  unit: string
  serial: string
  day: string
  /** Who released what was held; null where nothing was. */
  by: string | null
  /** The profile it went by: its revision and the digest of its canonical form (RFC 8785). */
  revision: number
  profile: string
}

/** A run that came to its proof, as far as it tells of the steps it went by. */
export interface CarriedRun {
  standIn: boolean
  of: TrialOf
  /** The link as that profile had it; null where it was no script. */
  link: ScriptedLink | null
  /** Kinds of the steps of the run that were done. */
  did: readonly string[]
  /** A person brought it into its bootloader. */
  enteredByHand: boolean
}

/** One operation of a link as a run carried it out. */
export interface KeptTrial extends TrialOf {
  operation: OperationName
  /** Of its steps, and of what they rest on. */
  digest: string
  on: 'stand-in' | 'unit'
}

/** Where an operation stands, as its steps are now. */
export type TrialState = 'never' | 'stand-in' | 'changed' | 'proved'
/** An operation with its trial, by its steps as they are now. */
export interface OperationTrial {
  operation: OperationName
  state: TrialState
  /** The newest that it rests on; before the change where it was changed; null where there is none. */
  last: KeptTrial | null
}

/**
 * Digest (SHA-256, hexadecimal) of an operation and of what its steps rest on: the line, frames, the buffer. Null
 * where the link has no such operation. Times that only predict are no part of it.
 */
export function operationDigest({ line, drive }: ScriptedLink, operation: OperationName): string | null {
  const steps = drive.operations[operation]
  if (!steps) return null
  const { opens, frame, staging } = drive
  return sha256Hex(canonicalJson({ ...steps, line, opens, frame, staging }))
}

/** What a run did with a unit, by the kinds of its steps. */
function carriedOut({ link, did, enteredByHand }: CarriedRun): OperationName[] {
  const done = new Set(did)
  const check: OperationName = link?.drive.operations.check ? 'check' : 'read'
  const by: Record<string, readonly OperationName[]> = {
    identify: ['page', 'identify'],
    enter: enteredByHand ? ['attach'] : ['enter', 'attach'],
    backup: ['read'],
    'dry-run': ['dryRun'],
    erase: ['erase'],
    write: ['unlock', 'write'],
    verify: [check],
    restart: ['start'],
  }
  return Object.entries(by).flatMap(([kind, names]) => (done.has(kind) ? names : []))
}

/** The trials that proved runs were, newest run first: of each operation with its steps the newest on each kind of unit. */
export function trialsOfRuns(runs: readonly CarriedRun[]): KeptTrial[] {
  const kept = new Map<string, KeptTrial>()
  // Most runs of a family go by the same link: each operation of it is summed once.
  const digests = new Map<ScriptedLink, Map<OperationName, string | null>>()
  const digestOf = (link: ScriptedLink, operation: OperationName) => {
    const own = digests.get(link) ?? new Map<OperationName, string | null>()
    digests.set(link, own)
    if (!own.has(operation)) own.set(operation, operationDigest(link, operation))
    return own.get(operation)!
  }
  for (const run of runs) {
    for (const operation of carriedOut(run)) {
      const digest = run.link && digestOf(run.link, operation)
      if (digest === null) continue
      const on = run.standIn ? 'stand-in' : 'unit'
      const key = `${run.of.linkId} ${operation} ${digest} ${on}`
      if (!kept.has(key)) kept.set(key, { ...run.of, operation, digest, on })
    }
  }
  return [...kept.values()]
}

/** Where each operation of a script stands now. @param kept newest first, of any link. */
export function operationTrials(link: ScriptedLink, kept: readonly KeptTrial[]): OperationTrial[] {
  return operations.flatMap((operation): OperationTrial[] => {
    const digest = operationDigest(link, operation)
    if (digest === null) return []
    const own = kept.filter((each) => each.linkId === link.id && each.operation === operation)
    const bySame = (on: KeptTrial['on']) => own.find((each) => each.on === on && each.digest === digest)
    const proved = bySame('unit')
    if (proved) return [{ operation, state: 'proved', last: proved }]
    const before = own.find(({ on }) => on === 'unit')
    if (before) return [{ operation, state: 'changed', last: before }]
    const practised = bySame('stand-in')
    return [{ operation, state: practised ? 'stand-in' : 'never', last: practised ?? null }]
  })
}

/** What an operation is called in a sentence. */
const called: Record<OperationName, string> = {
  page: 'reading the page',
  live: 'reading for a log',
  enter: 'entering the bootloader',
  attach: 'joining the bootloader',
  identify: 'asking the bootloader',
  unlock: 'unlocking',
  read: 'reading out',
  erase: 'erasing',
  dryRun: 'the dry run',
  write: 'writing',
  check: 'the checksum',
  start: 'starting the firmware',
}
/** Several operations in a sentence. */
export const calledText = (names: readonly OperationName[]): string =>
  names.map((name) => called[name]).join(', ')

/** A mark in words, for the operation it stands beside. */
export function trialText({ state, last }: OperationTrial): string {
  const where = last && `${last.unit}, serial ${last.serial}, on ${last.day}`
  const how = last && `${last.by === null ? '' : `, ${last.by}`}, revision ${last.revision} of this profile`
  switch (state) {
    case 'never':
      return 'Never tried in a run.'
    case 'stand-in':
      return `On a stand-in only, on ${last!.day}: it plays what the profile says, right or wrong.`
    case 'changed':
      return `Changed since it was last proved on a unit: ${where}${how}.`
    case 'proved':
      return `Proved on a unit: ${where}${how}.`
  }
}
