import { heaviestFirst, type Finding } from '../../kernel'
import { durationOf, rowsOf } from '../log'
import { groupedNumber, durationText } from '../../kernel'
import type { LogQuestion, LogRule } from './question'
import { atRail } from './rules/at-rail'
import { channelMissing } from './rules/channel-missing'
import { conditionNeverReached } from './rules/condition-never-reached'
import { gaps } from './rules/gaps'
import { limitPassed } from './rules/limit-passed'
import { narrowBand } from './rules/narrow-band'
import { noFigures } from './rules/no-figures'
import { rateTooLow } from './rules/rate-too-low'
import { stuck } from './rules/stuck'
import { supplySagging } from './rules/supply-sagging'
import { timeBack } from './rules/time-back'
import { tooShort } from './rules/too-short'
import { tooSmall } from './rules/too-small'

/** Every rule that a log is judged by. */
export const logRules: readonly LogRule[] = [
  tooSmall,
  tooShort,
  timeBack,
  channelMissing,
  noFigures,
  stuck,
  atRail,
  narrowBand,
  gaps,
  rateTooLow,
  conditionNeverReached,
  supplySagging,
  limitPassed,
]

/**
 * Whether a log is worth sending, heaviest finding first; what reading it showed counts too. A log without any fault
 * says so. The next kind of log is asked for only when this one is good (PRACTICE K2).
 */
export function judgeLog(question: LogQuestion): Finding[] {
  const findings: Finding[] = [...question.log.findings]
  for (const { id, judge } of logRules) {
    const said = judge(question) ?? []
    for (const finding of Array.isArray(said) ? said : [said]) findings.push({ rule: id, ...finding })
  }
  if (!findings.some(({ level }) => level !== 'note'))
    findings.push({
      rule: 'log-good',
      level: 'go',
      says: `The log is good for ${question.kind.name.toLowerCase()}.`,
      because: `${groupedNumber(rowsOf(question.log))} rows over ${durationText(durationOf(question.log) * 1000)}, ${question.channels.length} channels of the list.`,
    })
  return heaviestFirst(findings)
}
