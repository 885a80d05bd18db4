import { concatBytes } from '@bench-wake/core/kernel'
import { describe, expect, it } from 'vitest'
import { resendAfterMs, sendInOrder } from './in-order'

/** A server that takes a numbered piece once, behind a network that fails as told. */
function network(fails: (count: number) => 'before' | 'after' | false) {
  const heard: Uint8Array[] = []
  const waits: number[] = []
  const lost: unknown[] = []
  let last = 0
  let count = 0
  const sender = sendInOrder(
    async ({ seq, bytes }) => {
      const fault = fails(++count)
      await Promise.resolve()
      if (fault === 'before') throw new Error('no network')
      if (seq > last) {
        expect(seq).toBe(last + 1)
        last = seq
        heard.push(bytes)
      }
      if (fault === 'after') throw new Error('no answer')
    },
    async (ms) => void waits.push(ms),
    (error) => lost.push(error),
  )
  const settled = async () => {
    for (let turn = 0; turn < 50; turn++) await Promise.resolve()
  }
  return { sender, waits, lost, settled, all: () => [...concatBytes(heard)] }
}

describe('bytes that a lent port heard', () => {
  it('arrive in their order, each once', async () => {
    const { sender, all, settled, lost } = network(() => false)
    for (let byte = 0; byte < 20; byte++) sender.push(Uint8Array.of(byte))
    await settled()
    expect(all()).toEqual([...Array(20).keys()])
    expect(lost).toEqual([])
  })
  it.each(['before', 'after'] as const)(
    'are sent again where the network failed %s they arrived, and count once',
    async (fault) => {
      const { sender, all, settled, waits } = network((count) => (count === 2 || count === 3 ? fault : false))
      sender.push(Uint8Array.of(1))
      sender.push(Uint8Array.of(2))
      sender.push(Uint8Array.of(3))
      await settled()
      expect(all()).toEqual([1, 2, 3])
      expect(waits).toEqual(resendAfterMs.slice(0, 2))
    },
  )
  it('that never arrive end it with a word, and nothing after them is sent', async () => {
    let silent = false
    const { sender, all, settled, lost, waits } = network((count) => {
      silent ||= count === 2
      return silent ? 'before' : false
    })
    sender.push(Uint8Array.of(1))
    await settled()
    sender.push(Uint8Array.of(2))
    await settled()
    silent = false
    sender.push(Uint8Array.of(3))
    await settled()
    expect(all()).toEqual([1])
    expect(lost).toHaveLength(1)
    expect(waits).toEqual(resendAfterMs)
  })
})
