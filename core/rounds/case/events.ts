import * as v from 'valibot'
import { CaseAgreement } from './agreement'

const id = v.pipe(v.string(), v.minLength(1), v.maxLength(80))
const person = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80))
const words = v.pipe(v.string(), v.trim(), v.maxLength(4000))

/** What happens in a case, oldest first. Its state is folded from it; nothing is written over. */
export const CaseEvent = v.variant('kind', [
  v.strictObject({ kind: v.literal('opened'), by: person, agreement: CaseAgreement }),
  /** The agreement in its newest wording: channels added, limits moved. */
  v.strictObject({ kind: v.literal('agreed'), by: person, agreement: CaseAgreement, why: words }),
  /** Something on the machine is another than before (PRACTICE K6). */
  v.strictObject({ kind: v.literal('machine-changed'), by: person, says: words }),
  /** An image came: the base for round 1, then each answer's. */
  v.strictObject({
    kind: v.literal('revision'),
    by: person,
    imageId: id,
    definitionId: v.nullable(id),
    remarks: words,
  }),
  /** A job was made for the write of this round. */
  v.strictObject({ kind: v.literal('job'), by: person, jobId: id }),
  v.strictObject({ kind: v.literal('log'), by: person, logId: id, logKind: id }),
  /** A log that was good enough by the rules is left out by a person, or one is taken back. */
  v.strictObject({ kind: v.literal('log-left-out'), by: person, logId: id, why: words }),
  /** A log that was held counts all the same, by a named person's word. A stop cannot be released. */
  v.strictObject({ kind: v.literal('log-accepted'), by: person, logId: id, why: words }),
  /** The package went to the calibrator. */
  v.strictObject({
    kind: v.literal('sent'),
    by: person,
    sha256: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/)),
    symptoms: words,
  }),
  v.strictObject({
    kind: v.literal('closed'),
    by: person,
    outcome: v.picklist(['reached', 'mechanical', 'given-up']),
    says: words,
  }),
  v.strictObject({ kind: v.literal('reopened'), by: person, why: words }),
])
export type CaseEvent = v.InferOutput<typeof CaseEvent>

/** An event and when it was, ms since 1970. */
export interface TimedCaseEvent {
  at: number
  event: CaseEvent
}
