import { concatBytes } from '@bench-wake/core/kernel'

/** Waits between two tries of one piece, ms: some seconds together, which is what a network that stumbles takes. */
export const resendAfterMs = [100, 200, 400, 800, 1600, 2000]

/**
 * Sends bytes in their order, gathered while the piece before is on its way. A piece that does not arrive is sent again,
 * under its number, so that the server takes it once; one that never arrives ends it all: bytes that are missing in the
 * middle would be an answer that the unit never gave.
 * @param lost called once, with what went wrong last.
 */
export function sendInOrder(
  post: (piece: { seq: number; bytes: Uint8Array }) => Promise<unknown>,
  wait: (ms: number) => Promise<void>,
  lost: (error: unknown) => void,
): { push(bytes: Uint8Array): void } {
  let waiting: Uint8Array[] = []
  let seq = 0
  let state: 'idle' | 'sending' | 'ended' = 'idle'

  async function sendPiece(piece: { seq: number; bytes: Uint8Array }): Promise<void> {
    for (let tries = 0; ; tries++) {
      try {
        await post(piece)
        return
      } catch (error) {
        const ms = resendAfterMs[tries]
        if (ms === undefined) throw error
        await wait(ms)
      }
    }
  }
  async function send(): Promise<void> {
    state = 'sending'
    try {
      while (waiting.length > 0) {
        const bytes = concatBytes(waiting)
        waiting = []
        await sendPiece({ seq: ++seq, bytes })
      }
      state = 'idle'
    } catch (error) {
      state = 'ended'
      lost(error)
    }
  }
  return {
    push(bytes) {
      if (state === 'ended') return
      waiting.push(bytes)
      if (state === 'idle') void send()
    },
  }
}
