import type { JobDeed } from './deeds'

/** What became of a reported symptom, as far as anybody can say (PRACTICE A6). */
export const symptomNow = ['gone', 'there', 'not-known'] as const
/** What became of a symptom. */
export type SymptomNow = (typeof symptomNow)[number]
/** What became of a symptom that was reported. */
export interface SymptomWord {
  /** As it was reported. */
  says: string
  now: SymptomNow
}

/** How each state of a symptom is said. */
export const symptomText: Record<SymptomNow, string> = {
  gone: 'gone',
  there: 'still there',
  'not-known': 'cannot be said yet',
}

/** What became of each, in a sentence for the record. */
export const symptomsText = (words: readonly SymptomWord[]): string =>
  words.map(({ says, now }) => `“${says.replace(/\.$/, '')}”: ${symptomText[now]}.`).join(' ')

/** Two weeks: what comes twice a night or twice a week has come again by then (common practice). */
export const usualFollowUpDays = 14

/**
 * The day on which whoever uses the unit is asked again whether the symptom is gone; null where nobody wanted that, where it
 * was answered since, or where the job was opened again.
 * @param history oldest first.
 */
export function askAgainOn(history: readonly JobDeed[]): string | null {
  const last = history.findLast(({ did }) => ['ask-again', 'asked', 'reopened'].includes(did))
  return last?.did === 'ask-again' ? last.says : null
}
