import { asSentence } from '../kernel'

/**
 * The ways to know what an image is, best first: its identity block, a text around its version, a manifest that came with
 * it, its digest in the profile's list of releases, the word of a named person.
 */
export const toldBys = ['block', 'text', 'manifest', 'release', 'person'] as const
/** By which way an image is known. */
export type ToldBy = (typeof toldBys)[number]

/** What a later way may fill where an earlier one leaves it open, and how each is called. */
export const filledMembers = ['version', 'hardwareMajor', 'sequence'] as const
/** A member of an identity that a way can fill. */
export type FilledMember = (typeof filledMembers)[number]
/** How each member of an identity is said. */
export const memberWords: Record<FilledMember, string> = {
  version: 'version',
  hardwareMajor: 'hardware',
  sequence: 'sequence number',
}

/** What an image is: what its bytes say under a family's profile, and what is known of it beside. A missing member is not known. */
export interface ImageIdentity {
  familyId: string
  componentId: string
  /** How family and component are known; by the identity block when absent. */
  toldBy?: ToldBy
  /** Members that another way than `toldBy` told. */
  filledBy?: Partial<Record<FilledMember, ToldBy>>
  /** Other ways that tell the same family and part, and contradict nothing. */
  alsoToldBy?: ToldBy[]
  /** Where two ways tell different things, in words. Such an image must not go on. */
  contradictions?: string[]
  /** Whose word it is, where `toldBy` or `filledBy` is a person. */
  statement?: { by: string; from: string; at: number }
  deviceIdentifier?: string
  hardwareMajor?: number
  hardwareMinor?: number
  /** Model of the family it was built for. */
  model?: string
  version?: string
  /** Milliseconds since 1970 UTC. */
  buildTime?: number
  /** `production` or `test`, by the profile's names. */
  release?: string
  /** The one unit it was issued for. */
  serial?: string
  /** Answer to one of the family's questions. */
  variant?: string
  /** What it was built with: names joined by "+", "none" for nothing. */
  options?: string
  /** Memory layout or definition it belongs to. */
  layout?: string
  /** RFC 9124, monotonic sequence number. */
  sequence?: number
  /** Versions it may be put on: from this one on, and below that one. */
  requiresFrom?: string
  requiresBelow?: string
  /** First bytes of the SHA-256 of the image that must be on the unit, lower-case hexadecimal. */
  precursor?: string
  /** Bytes the image says it has. */
  length?: number
  vendorId?: string
  classId?: string
  /** The image's own check over its bytes; absent where the family has none. */
  intact?: { ok: boolean; expected: number; found: number }
}

/** How each way is called in a sentence: "its identity block says 2.4". */
export const toldByWords: Record<ToldBy, string> = {
  block: 'its identity block',
  text: 'a text in it',
  manifest: 'the manifest that came with it',
  release: 'the profile’s list of releases',
  person: 'the word of a person',
}

/** How a member of an identity is known. */
export const howTold = ({ toldBy = 'block', filledBy = {} }: ImageIdentity, member?: FilledMember): ToldBy =>
  (member && filledBy[member]) ?? toldBy

/** How it is known, in a sentence; and what another way told. */
export function knownWords(identity: ImageIdentity): string {
  const told = howTold(identity)
  const { by, from } = identity.statement ?? {}
  const first =
    told === 'block'
      ? 'Read from the identity block, not from the file name.'
      : told === 'person'
        ? `${by} says so. Where from: ${from}.`
        : `${asSentence(toldByWords[told])} says so, not the file name.`
  const others = filledMembers.flatMap((member) => {
    const way = identity.filledBy?.[member]
    if (way === undefined || way === told) return []
    const who = way === 'person' ? `${by} says it, from ${from}` : toldByWords[way]
    return [`Its ${memberWords[member]}: ${who}.`]
  })
  return [first, ...others].join(' ')
}
