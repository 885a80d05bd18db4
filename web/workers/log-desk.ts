import { useDesk } from './desk'
import type { LogActs } from './log-worker'

export type LogMap = NonNullable<Awaited<ReturnType<LogActs['map']>>>

/** A worker for the logs that a screen looks at. */
export const useLogDesk = (onProgress?: (share: number) => void) =>
  useDesk<LogActs>(new Worker(new URL('./log-worker.ts', import.meta.url), { type: 'module' }), onProgress)
export type LogDesk = ReturnType<typeof useLogDesk>
