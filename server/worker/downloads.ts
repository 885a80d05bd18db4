import { Problem } from '@bench-wake/core/kernel'
import type { DownloadForm } from './tasks'
import { WorkerThread } from './worker-thread'

/** Downloads that are open at once; each takes a few megabytes. */
export const maxDownloads = 8
/** An export holds its whole image in memory: one at a time. */
const maxExports = 1
/** A download of which nothing is read is given up after so long, ms. */
const idleMs = 60_000

/**
 * Files and exports piece by piece, from a thread of their own: reading, digesting and writing them holds up no request and
 * no write, and no more is read than the other side takes.
 */
export class Downloads {
  private readonly thread: WorkerThread
  private readonly open = { file: 0, export: 0 }

  constructor(databaseUrl: string) {
    this.thread = new WorkerThread(databaseUrl)
  }

  /** Begins a download; what is wrong with it at its first piece is thrown here. @throws Problem `too-many-downloads`. */
  async begin(form: DownloadForm): Promise<ReadableStream<Uint8Array>> {
    const { kind } = form
    if (
      this.open.file + this.open.export >= maxDownloads ||
      (kind === 'export' && this.open.export >= maxExports)
    )
      throw new Problem({
        kind: 'too-many-downloads',
        says: kind === 'export' ? 'another image is being exported' : 'too many downloads are open',
        remedy: 'Wait until one of them is over, then try again.',
      })
    this.open[kind]++
    let id: number | undefined
    let timer: NodeJS.Timeout | undefined
    let over = false
    const end = () => {
      clearTimeout(timer)
      if (over) return
      over = true
      this.open[kind]--
      if (id !== undefined) void this.thread.ask('closeDownload', { id }).catch(() => {})
    }
    const next = async () => {
      try {
        const piece = await this.thread.ask('nextPiece', { id: id! })
        if (piece === null) end()
        return piece
      } catch (error) {
        end()
        throw error
      }
    }
    try {
      id = await this.thread.ask('openDownload', form)
    } catch (error) {
      end()
      throw error
    }
    let first = await next()
    return new ReadableStream<Uint8Array>(
      {
        async pull(controller) {
          clearTimeout(timer)
          const piece = first ?? (over ? null : await next())
          first = null
          if (piece === null) return controller.close()
          controller.enqueue(piece)
          timer = setTimeout(() => {
            end()
            controller.error(new Error('nothing was read of this download for a minute'))
          }, idleMs)
          timer.unref()
        },
        cancel: end,
      },
      // Nothing is read ahead of the other side.
      { highWaterMark: 0 },
    )
  }

  async close(): Promise<void> {
    await this.thread.close()
  }
}
