import { Problem } from '@bench-wake/core/kernel'
import { existsSync } from 'node:fs'
import { Worker } from 'node:worker_threads'
import type { Tasks } from './tasks'
import type { Answered, Asked } from './thread'

/** No task of this trade takes longer; one that does was made to. */
const maxMs = 60_000
/** Names the thread as it is built, for tests that run the server from its sources: from its own it starts in a second. */
export const builtThreadName = 'BENCH_WAKE_BUILT_THREAD'
/** The thread's program, beside the sources and beside the server as it is built. */
const threadStart = [process.env[builtThreadName], './thread-start.mjs', './thread.mjs']
  .filter((path) => path !== undefined)
  .map((path) => new URL(path, import.meta.url))
  .find((path) => existsSync(path))!

interface Waiting {
  resolve(answer: unknown): void
  reject(error: unknown): void
  timer: NodeJS.Timeout
}

/** A thread beside the server for what takes longer than a turn, so that a live write never waits for a file. */
export class WorkerThread {
  private worker: Worker | undefined
  private readonly waiting = new Map<number, Waiting>()
  private next = 0

  /** @param maxTaskMs a task that takes longer is ended. */
  constructor(
    private readonly databaseUrl: string,
    private readonly maxTaskMs = maxMs,
  ) {}

  /**
   * Asks for a task. What is in `handOver` moves to the thread and is empty here afterwards.
   * @throws Problem that the task met; `worker` when the thread died or took too long.
   */
  ask<Name extends keyof Tasks>(
    task: Name,
    form: Parameters<Tasks[Name]>[0],
    handOver: ArrayBuffer[] = [],
  ): Promise<Awaited<ReturnType<Tasks[Name]>>> {
    const worker = (this.worker ??= this.start())
    const id = this.next++
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        void worker.terminate()
      }, this.maxTaskMs)
      this.waiting.set(id, { resolve: resolve as (answer: unknown) => void, reject, timer })
      worker.postMessage({ id, task, form } satisfies Asked, handOver)
    })
  }

  async close(): Promise<void> {
    await this.worker?.terminate()
  }

  private start(): Worker {
    const worker = new Worker(threadStart, {
      workerData: { databaseUrl: this.databaseUrl },
      execArgv: [],
    })
    worker.unref()
    worker.on('message', (answered: Answered) => {
      const waiting = this.waiting.get(answered.id)
      this.waiting.delete(answered.id)
      if (!waiting) return
      clearTimeout(waiting.timer)
      if ('answer' in answered) waiting.resolve(answered.answer)
      else if ('problem' in answered) waiting.reject(new Problem(answered.problem))
      else waiting.reject(new Error(answered.defect))
    })
    const gone = (why: string) => {
      if (this.worker === worker) this.worker = undefined
      for (const { reject, timer } of this.waiting.values()) {
        clearTimeout(timer)
        reject(
          new Problem({
            kind: 'worker',
            says: 'the work was too much for this computer',
            found: why,
            remedy: 'Nothing was kept. Try again with less at once, or with a smaller file.',
          }),
        )
      }
      this.waiting.clear()
    }
    worker.on('error', (error) => gone(String(error)))
    worker.on('exit', () => gone('the thread ended'))
    return worker
  }
}
