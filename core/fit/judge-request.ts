import type { Finding } from '../kernel'
import { versionsText, type UnitFacts } from '../unit'

/** Something asked of a supplier, for a unit (PRACTICE B8, L1). */
export interface SupplierRequest {
  id: string
  unitId: string
  /** What was asked for. */
  asked: string
  /** Whom. */
  of: string
  /** Milliseconds since 1970 UTC. */
  askedAt: number
  /** Day by which an answer is wanted, `2026-12-01`. */
  dueDay: string
  answer: { says: string; by: string; at: number } | null
  /** The image that came of it, and when that settled the request. */
  imageId: string | null
  closedAt: number | null
}

/**
 * What is asked of a supplier, to begin from: which unit it is for, its serial, its hardware and what is on it now. What is
 * not known is left out, for a supplier asks for it.
 */
export function requestText(
  unit: { name: string; serial: string; facts: Pick<UnitFacts, 'hardware' | 'model' | 'versions'> },
  family: { name: string },
): string {
  const { hardware, model, versions } = unit.facts
  const now = versionsText(versions)
  return [
    `The newest release for ${family.name}, ${unit.name}, serial ${unit.serial}`,
    ...(model ? [`model ${model}`] : []),
    ...(hardware ? [`hardware ${hardware}`] : []),
    ...(now ? [`now ${now}`] : []),
  ].join(', ')
}

/**
 * A missing image holds the job, with what was asked of whom and since when.
 * @param today `2026-11-24`
 */
export function judgeRequest(request: SupplierRequest, today: string): Omit<Finding, 'rule'> {
  const days = Math.round((Date.parse(request.dueDay) - Date.parse(today)) / 86_400_000)
  const when = days < 0 ? `${-days} days overdue` : days === 0 ? 'due today' : `due in ${days} days`
  // An unsigned answer does not help; a named person does (PRACTICE L1).
  const answered = request.answer
    ? `${request.answer.by || 'Somebody without a name'} answered: ${request.answer.says}`
    : 'Nobody has answered.'
  return {
    level: 'hold',
    says: `The image is still awaited: ${request.asked.replace(/\.$/, '')}, ${when}.`,
    because: `Asked of ${request.of}. ${answered}`,
    remedy:
      days < 0 ? `Ask ${request.of} again.` : 'When it comes, drop it onto the shelf and choose it here.',
    numbers: { daysLeft: days },
  }
}
