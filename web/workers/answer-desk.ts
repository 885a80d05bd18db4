import { isProblem } from '@bench-wake/core/kernel'
import type { Acts } from './desk'

/** The worker's end of a desk: carries out what is asked and answers it, or says in words why it could not. */
export function answerDesk(acts: Acts): void {
  self.onmessage = async ({ data }: MessageEvent<{ id: number; act: string; args: never[] }>) => {
    const { id, act, args } = data
    try {
      self.postMessage({ id, answer: await acts[act]!(...args) })
    } catch (error) {
      const says = isProblem(error) ? error.message : error instanceof Error ? error.message : String(error)
      self.postMessage({ id, says })
    }
  }
}

/** Says how far a long act is, 0 to 1. */
export const sayProgress = (share: number): void => self.postMessage({ share })
