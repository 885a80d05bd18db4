import { onScopeDispose } from 'vue'
import type { Acts } from './image-worker'

type Answer<Name extends keyof Acts> = Awaited<ReturnType<Acts[Name]>>
export type Opened = Answer<'open'>

/** A worker for the images that a screen looks at; it ends with the screen. */
export function useImageDesk() {
  const worker = new Worker(new URL('./image-worker.ts', import.meta.url), { type: 'module' })
  const waiting = new Map<number, { resolve: (answer: never) => void; reject: (error: Error) => void }>()
  let next = 0
  worker.onmessage = ({ data }: MessageEvent<{ id: number; answer?: unknown; says?: string }>) => {
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
  return function ask<Name extends keyof Acts>(
    act: Name,
    ...args: Parameters<Acts[Name]>
  ): Promise<Answer<Name>> {
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
export type ImageDesk = ReturnType<typeof useImageDesk>
