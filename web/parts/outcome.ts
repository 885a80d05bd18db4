import type { Verdict } from '@bench-wake/core/kernel'
import type { RunState } from '@bench-wake/core/run'

export const outcomeWords: Record<RunState['outcome'], string> = {
  running: 'Running',
  proved: 'Proved',
  failed: 'Failed',
  cut: 'Cut',
  abandoned: 'Abandoned',
}

export const outcomeVerdict: Record<RunState['outcome'], Verdict> = {
  running: 'unknown',
  proved: 'go',
  failed: 'stop',
  cut: 'stop',
  abandoned: 'hold',
}
