import type { Component, Family } from '../family'
import type { ImageIdentity, MemoryMap } from '../image'
import type { Finding } from '../kernel'
import type { UnitFacts } from '../unit'

/** What fit is asked: does this image belong on this component of this unit? */
export interface FitQuestion {
  family: Family
  component: Component
  /** What the unit said of itself, last time it was read. */
  unit: UnitFacts
  image: {
    name: string
    memory: MemoryMap
    /** Null when no family profile claims the image. */
    identity: ImageIdentity | null
  }
}

/** A condition of fit: a pure function in a file of its own, named after it. No finding when it does not apply. */
export interface FitRule {
  id: string
  judge(question: FitQuestion): Omit<Finding, 'rule'> | null
}
