import { Problem } from '@bench-wake/core/kernel'
import type { MiddlewareHandler } from 'hono'
import { answerProblem } from './problem'

/** What is being written when the gate is shut has this long to end, ms. */
const endMs = 10_000
const reads = ['GET', 'HEAD', 'OPTIONS']

/** Refuses what would change the data once these are to be replaced, or are gone. */
export class WriteGate {
  private shutFor: { problem: Problem; readsToo: boolean } | undefined
  private writing = 0
  private onIdle: (() => void) | undefined

  /**
   * Refuses everything that changes the data from now on, and waits for what is being written already.
   * @throws Problem `still-writing` when that takes too long; then the gate is open again.
   */
  async shut(problem: Problem): Promise<void> {
    this.shutFor = { problem, readsToo: false }
    if (await this.idle()) return
    this.shutFor = undefined
    throw new Problem({
      kind: 'still-writing',
      says: 'something is still being sent to the program',
      remedy: 'Wait until uploads are over, then try again. Nothing was changed.',
    })
  }

  /** Lets everything through again. */
  open(): void {
    this.shutFor = undefined
  }

  /** Refuses everything from now on: the data are gone. */
  close(problem: Problem): void {
    this.shutFor = { problem, readsToo: true }
  }

  /** The request that shuts the gate is itself one that changes: it does not wait for itself. */
  private async idle(): Promise<boolean> {
    if (this.writing <= 1) return true
    let timer: NodeJS.Timeout | undefined
    const late = new Promise<boolean>((done) => {
      timer = setTimeout(() => done(false), endMs)
    })
    const over = new Promise<boolean>((done) => {
      this.onIdle = () => done(true)
    })
    try {
      return await Promise.race([over, late])
    } finally {
      clearTimeout(timer)
      this.onIdle = undefined
    }
  }

  guard(): MiddlewareHandler {
    return async (c, next) => {
      const changes = !reads.includes(c.req.method)
      if (this.shutFor && (changes || this.shutFor.readsToo)) return answerProblem(c, this.shutFor.problem)
      if (!changes) return next()
      this.writing++
      try {
        await next()
      } finally {
        this.writing--
        if (this.writing <= 1) this.onIdle?.()
      }
      // Closed while it was under way: what was not kept must not be acknowledged.
      if (this.shutFor?.readsToo) c.res = answerProblem(c, this.shutFor.problem)
    }
  }
}
