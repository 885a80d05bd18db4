import type { Clock } from '@bench-wake/core/kernel'
import { canFrameBitsSent, portClosed, type CanFrame, type CanPort } from '@bench-wake/core/link'

/** What a disturbance may do to frames on their way: drop, double, change. Each node hears what is left. */
export type DisturbFrame = (frame: CanFrame, from: string) => CanFrame[]

/** A vehicle bus: one frame at a time, each for as long as its bits and their stuff bits take, heard by every other node. */
export interface CanBus {
  join(name: string): CanPort & { leave(): void }
  /** Frames carried so far. */
  readonly carried: number
}

interface Node {
  name: string
  arrived: CanFrame[]
  waiting?: { settle(frame: CanFrame | null): void; fail(error: Error): void; callOff(): void }
}

export function canBus(
  clock: Clock,
  bitsPerSecond: () => number,
  disturb: DisturbFrame = (frame) => [frame],
): CanBus {
  const nodes = new Set<Node>()
  let freeAt = 0
  let carried = 0

  const deliver = (node: Node, frame: CanFrame) => {
    const { waiting } = node
    if (!waiting) {
      node.arrived.push(frame)
      return
    }
    delete node.waiting
    waiting.callOff()
    waiting.settle(frame)
  }

  return {
    get carried() {
      return carried
    },
    join(name) {
      const node: Node = { name, arrived: [] }
      nodes.add(node)
      return {
        name,
        async send(frame) {
          const now = clock.now()
          freeAt = Math.max(now, freeAt) + (canFrameBitsSent(frame) * 1000) / bitsPerSecond()
          await clock.sleep(freeAt - now)
          // Without anybody to acknowledge it a frame is sent again and again.
          while (nodes.size < 2 && nodes.has(node)) await clock.sleep(1)
          carried++
          for (const heard of disturb(frame, name)) {
            for (const each of nodes) if (each !== node) deliver(each, heard)
          }
        },
        receive(timeoutMs) {
          if (!nodes.has(node)) return Promise.reject(portClosed(name))
          const first = node.arrived.shift()
          if (first) return Promise.resolve(first)
          if (timeoutMs <= 0) return Promise.resolve(null)
          return new Promise((settle, fail) => {
            const callOff =
              timeoutMs === Infinity
                ? () => {}
                : clock.after(timeoutMs, () => {
                    delete node.waiting
                    settle(null)
                  })
            node.waiting = { settle, fail, callOff }
          })
        },
        leave() {
          nodes.delete(node)
          node.waiting?.callOff()
          node.waiting?.fail(portClosed(name))
          delete node.waiting
        },
      }
    },
  }
}
