/** What was done with a job itself, beside its runs. */
export const jobDeeds = ['closed', 'withdrawn', 'reopened', 'moved', 'ask-again', 'asked'] as const

/** One thing that a person did with the job itself: moved, asked, closed, opened again. */
export interface JobDeed {
  did: (typeof jobDeeds)[number]
  by: string
  /** Whether that name was typed, or is of a person who was signed in. Absent in older records. */
  names?: 'typed' | 'signed-in'
  /** ms since 1970 UTC. */
  at: number
  /** The reason, the closing word or the answer; for a move and a question the day it is for, `2026-12-01`. */
  says: string
}
