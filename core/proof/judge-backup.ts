import type { ImageIdentity } from '../image'
import { hexNumber, groupedNumber, type Finding } from '../kernel'

/** What a read-out is judged by. */
export interface BackupFacts {
  /** What was read. */
  bytes: Uint8Array
  /** Bytes that were asked for. */
  wanted: number
  erasedByte: number
  /** Whether a second reading gave the same; null where it was read once, by name and reason. */
  equalTwice: boolean | null
  /** What the bytes say of themselves. */
  identity: ImageIdentity | null
  familyId: string
  /** Images of this part say what they are: a block or a text in them does. */
  labelled: boolean
}

/** Fewer different byte values than this are no program: code uses most of the 256 (common practice). */
const minValues = 16

/** PRACTICE G5: all-FF, all-00, short or unequal on the second read is no backup. */
export function judgeBackup(facts: BackupFacts): Finding[] {
  const { bytes, wanted, erasedByte, equalTwice, identity, familyId, labelled } = facts
  const again = 'Check plug, supply and speed, and read it again.'
  const stop = (rule: string, says: string, because: string, remedy = again): Finding => ({
    rule,
    level: 'stop',
    says,
    because,
    remedy,
  })
  if (bytes.length < wanted) {
    return [
      stop(
        'backup-short',
        'The backup is short.',
        `${groupedNumber(bytes.length)} of ${groupedNumber(wanted)} bytes came.`,
      ),
    ]
  }
  const used = bytes.filter((byte) => byte !== erasedByte)
  const values = new Set(bytes)
  if (values.size === 1) {
    const only = hexNumber(bytes[0]!, 2)
    return [stop('backup-empty', `The backup is all ${only}.`, `Every one of its bytes reads ${only}.`)]
  }
  if (equalTwice === false) {
    return [stop('backup-unequal', 'Two readings differ.', 'What is read twice must be the same twice.')]
  }
  if (values.size < minValues) {
    return [
      stop(
        'backup-low-variety',
        'The backup holds next to nothing.',
        `Only ${values.size} different byte values in ${groupedNumber(used.length)} used bytes.`,
      ),
    ]
  }
  const kept = `The original is kept: ${groupedNumber(bytes.length)} bytes, ${equalTwice === null ? 'read once' : 'read twice and equal'}.`
  if (!identity && !labelled) {
    return [
      {
        rule: 'backup-good',
        level: 'note',
        says: kept,
        because: 'Images of this equipment carry no label, so nothing in it tells which version it is.',
        remedy: 'Write on its page what it is, as the unit says it.',
      },
    ]
  }
  if (identity?.familyId !== familyId) {
    return [
      stop(
        'backup-unknown',
        'The backup is not recognised as an image of this family.',
        'No identity block and no text of this family stands in it.',
        'The unit may be half written, or the profile is about another one. Release the backup by name to write without it.',
      ),
    ]
  }
  return [
    {
      rule: 'backup-good',
      level: 'go',
      says: kept,
      because: `It says of itself that it is ${identity.version ?? 'an image of this family'}.`,
    },
  ]
}
