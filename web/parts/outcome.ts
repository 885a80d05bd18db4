import type { Verdict } from '@bench-wake/core/kernel'
import { endingText } from '@bench-wake/core/job'
import { isEqual } from '@bench-wake/core/link'
import type { LogbookRow } from '@bench-wake/core/record'
import type { RunState } from '@bench-wake/core/run'

export const outcomeWords: Record<RunState['outcome'], string> = {
  running: 'Running',
  proved: 'Proved',
  done: 'Done',
  failed: 'Failed',
  cut: 'Cut',
  abandoned: 'Abandoned',
  damaged: 'Record damaged',
}

/** The outcome of a run as a list shows it: a proof that is not fit for use is said to be that. */
export const rowWords = ({ outcome, cameTo }: Pick<LogbookRow, 'outcome' | 'cameTo'>): string =>
  cameTo === 'written-not-fit' ? endingText[cameTo] : outcomeWords[outcome]
/** A check that found something else came to its end, and is no green mark. */
export const rowVerdict = ({
  outcome,
  cameTo,
  task,
  check,
}: Pick<LogbookRow, 'outcome' | 'cameTo' | 'task' | 'check'>): Verdict =>
  cameTo === 'written-not-fit'
    ? 'hold'
    : outcome === 'done' && task === 'check' && check && !isEqual({ outcome: check })
      ? 'note'
      : outcomeVerdict[outcome]

export const outcomeVerdict: Record<RunState['outcome'], Verdict> = {
  running: 'unknown',
  proved: 'go',
  done: 'go',
  failed: 'stop',
  cut: 'stop',
  abandoned: 'hold',
  damaged: 'stop',
}
