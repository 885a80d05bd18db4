import type { Component, Family } from '../family'
import type { ImageIdentity, ManifestClaim } from '../image'
import type { Finding } from '../kernel'
import type { UnitFacts } from '../unit'

/** What fit has to know of an image; its bytes play no part any more. */
export interface FitImage {
  name: string
  /** Ranges it sets, lowest address first. */
  segments: readonly { address: number; length: number }[]
  /** Null when no family profile claims the image. */
  identity: ImageIdentity | null
  /** SHA-256 of what it sets in memory, where it is known. */
  contentSha256?: string
  /** What a manifest that came with it says. */
  claim?: ManifestClaim | null
}

/** Answers to the family's questions about how the unit is used, by the question's id. */
export type UnitAnswers = Readonly<Record<string, string>>

/** What fit is asked: does this image belong on this component of this unit? */
export interface FitQuestion {
  family: Family
  component: Component
  /** What the unit said of itself, last time it was read. */
  unit: UnitFacts
  answers?: UnitAnswers
  image: FitImage
}

/** A condition of fit: a pure function in a file of its own, named after it. No finding when it does not apply. */
export interface FitRule {
  id: string
  judge(question: FitQuestion): Omit<Finding, 'rule'> | null
}
