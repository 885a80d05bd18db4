// The thread behind worker.ts: takes a task, answers it, one after the other.
import { isProblem, type ProblemFacts } from '@bench-wake/core/kernel'
import { parentPort, workerData, type TransferListItem } from 'node:worker_threads'
import { connectDatabase } from '../db/open'
import { noSuchTask, tasks, type Tasks } from './tasks'

export interface Asked {
  id: number
  task: keyof Tasks
  form: unknown
}
export type Answered =
  | { id: number; answer: unknown }
  | { id: number; problem: ProblemFacts }
  | { id: number; defect: string }

const { databaseUrl } = workerData as { databaseUrl: string }
const { db } = await connectDatabase(databaseUrl)
const all = tasks(db) as Record<string, (form: never) => Promise<unknown>>
let queue: Promise<void> = Promise.resolve()

parentPort!.on('message', ({ id, task, form }: Asked) => {
  queue = queue.then(async () => {
    try {
      const act = all[task]
      if (!act) throw noSuchTask(task)
      const answer = await act(form as never)
      parentPort!.postMessage({ id, answer } satisfies Answered, buffersOf(answer))
    } catch (error) {
      parentPort!.postMessage(
        (isProblem(error) ? { id, problem: error.facts } : { id, defect: String(error) }) satisfies Answered,
      )
    }
  })
})

/** Whole buffers of an answer are handed over, not copied. */
function buffersOf(value: unknown, found: TransferListItem[] = []): TransferListItem[] {
  if (value instanceof Uint8Array) {
    if (value.byteLength === value.buffer.byteLength && value.byteLength > 65_536) {
      found.push(value.buffer as ArrayBuffer)
    }
  } else if (Array.isArray(value)) {
    for (const each of value) if (typeof each === 'object') buffersOf(each, found)
  } else if (value !== null && typeof value === 'object') {
    for (const each of Object.values(value)) if (typeof each === 'object') buffersOf(each, found)
  }
  return found
}
