import { useDesk } from './desk'
import type { ImageActs } from './image-worker'

export type Opened = Awaited<ReturnType<ImageActs['open']>>

/** A worker for the images that a screen looks at. */
export const useImageDesk = () =>
  useDesk<ImageActs>(new Worker(new URL('./image-worker.ts', import.meta.url), { type: 'module' }))
export type ImageDesk = ReturnType<typeof useImageDesk>
