import { onScopeDispose } from 'vue'

/** What a worker can be asked: functions by name. */
export type Acts = Record<string, (...args: never[]) => Promise<unknown>>

/**
 * Asks a worker one thing after the other; the worker ends with the screen.
 * @param onProgress told what a worker says in the middle of an act.
 */
export function useDesk<A extends Acts>(worker: Worker, onProgress?: (share: number) => void) {
  const waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>()
  let next = 0
  worker.onmessage = ({
    data,
  }: MessageEvent<{ id: number; answer?: unknown; says?: string; share?: number }>) => {
    if (data.share !== undefined) return onProgress?.(data.share)
    const asked = waiting.get(data.id)
    waiting.delete(data.id)
    if (data.says === undefined) asked?.resolve(data.answer as never)
    else asked?.reject(new Error(data.says))
  }
  worker.onerror = ({ message }) => {
    for (const { reject } of waiting.values()) reject(new Error(message))
    waiting.clear()
  }
  onScopeDispose(() => worker.terminate())
  return function ask<Name extends keyof A & string>(
    act: Name,
    ...args: Parameters<A[Name]>
  ): Promise<Awaited<ReturnType<A[Name]>>> {
    return new Promise((resolve, reject) => {
      const id = next++
      waiting.set(id, { resolve: resolve as (answer: never) => void, reject })
      // Plain copies: what a screen holds is reactive and cannot cross over.
      worker.postMessage({
        id,
        act,
        args: JSON.parse(JSON.stringify(args, (_, value: unknown) => value ?? null)),
      })
    })
  }
}
