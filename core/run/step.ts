/** The kinds of step, in the order of a plain run. */
export const stepKinds = [
  'power-up',
  'swap',
  'media',
  'connect',
  'identify',
  'settings',
  'enter',
  'backup',
  'compare',
  'dry-run',
  'erase',
  'write',
  'verify',
  'fuses',
  'restart',
  'prove',
  'look',
  'faults',
] as const
export type StepKind = (typeof stepKinds)[number]

/** One step of a plan: data only. What it does is in steps/<kind>.ts. */
export interface Step {
  kind: StepKind
  /** Which of the run's components it is about, counted from 0; absent where it is about the whole unit. */
  piece?: number
  /** What happens, to a person: "Erase 64 sectors". */
  says: string
  /** Predicted time, ms; the person's own time is in `personMs`. */
  predictedMs: number
  /** Of that, what the unit needs after the last byte, ms: closing its file, trying its firmware. */
  tailMs?: number
  /** Predicted time that a person needs within the step, ms. */
  personMs: number
  /** True while nothing may be touched and nothing may be cancelled. */
  handsOff: boolean
}
