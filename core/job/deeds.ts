/** What was done with a job itself, beside its runs. */
export const jobDeeds = ['closed', 'withdrawn', 'reopened', 'moved'] as const

export interface JobDeed {
  did: (typeof jobDeeds)[number]
  by: string
  /** ms since 1970 UTC. */
  at: number
  /** The reason, or the closing word; for a move the day it was moved to, `2026-12-01`. */
  says: string
}
