import { describe, expect, it } from 'vitest'
import type { Problem } from '../../kernel'
import type { Port } from '../port'
import { receiveXmodem, sendXmodem } from '.'

/*
 * Common practice: a unit that resets itself in the middle of a transfer runs its old firmware and prints its log, line after
 * line. None of it is an answer, and the sender must not wait for one for ever.
 */

/** A receiver that asks, acknowledges so many blocks, and from then on prints its log. */
function babbles(after: number, noise = '') {
  const letters = (text: string) => [...text].map((letter) => letter.charCodeAt(0))
  const written: Uint8Array[] = []
  let blocks = 0
  let reads = 0
  let waiting: number[] = [0x43]
  const port: Port = {
    name: 'port',
    settings: { baudRate: 57_600, dataBits: 8, parity: 'none', stopBits: 1 },
    open: async () => {},
    close: async () => {},
    setLines: async () => {},
    async write(bytes) {
      written.push(bytes)
      if (bytes.length > 100) waiting = ++blocks <= after ? [...letters(noise), 0x06] : []
      if (bytes[0] === 0x04 && blocks <= after) waiting = [0x06]
    },
    async read(max, timeoutMs) {
      if (++reads > 200_000) throw new Error('it waits for ever')
      if (waiting.length === 0 && (blocks <= after || timeoutMs === 0)) return null
      if (waiting.length === 0) waiting = letters('pump 2 on, level 1.4 m\r\n')
      return Uint8Array.from(waiting.splice(0, max))
    },
  }
  return { port, written, reads: () => reads }
}
const image = new Uint8Array(4096).fill(0x5a)
const form = { blockBytes: 1024, padByte: 0xff } as const

describe('a unit that prints in place of an answer', () => {
  it('is given up with the byte that it had acknowledged, and told to end', async () => {
    const { port, written } = babbles(2)
    const problem = await sendXmodem(port, image, form).catch((error: unknown) => error as Problem)
    expect((problem as Problem).facts).toMatchObject({
      kind: 'xmodem-gave-up',
      place: { offset: 2048 },
      found: 'other words in place of an answer',
    })
    expect([...written.at(-1)!]).toEqual([0x18, 0x18])
  })
  it('before it ever asked is not waited for without end, and nothing was written', async () => {
    const { port, written } = babbles(-1)
    // Its log has no letter C and no NAK in it.
    await port.read(1, 0)
    const problem = await sendXmodem(port, image, form).catch((error: unknown) => error as Problem)
    expect((problem as Problem).facts).toMatchObject({
      kind: 'xmodem-no-start',
      expected: 'C or NAK',
      found: 'other words, without an asking',
      remedy: expect.stringMatching(/^Nothing was written\./),
    })
    expect(written.every((bytes) => bytes.length < 3)).toBe(true)
  })
  it('and then asks after all is sent to: a boot log of some pages is borne', async () => {
    const { port } = babbles(9)
    const log = Uint8Array.from(Buffer.from('level 1.4 m\r\n'.repeat(300)))
    const { read } = port
    let at = 0
    port.read = async (max, ms) => (at < log.length ? log.slice(at, (at += max)) : read(max, ms))
    expect(await sendXmodem(port, image, form)).toMatchObject({ check: 'crc', blocks: 4 })
  })
  // A unit that wants sums asks with NAK; its boot text has letters C in it (common practice: "CPU", "GCC", "CCM").
  it.each(['C', 'CPU 72 MHz', 'built by GCC 9', 'CC', 'boot C\r\n'])(
    'a letter C in its boot text is no asking: %j',
    async (text) => {
      const { port } = babbles(99)
      await port.read(1, 0)
      const { read } = port
      const said = Uint8Array.from(Buffer.from(`${text} \x15`))
      let at = 0
      port.read = async (max, ms) => (at < said.length ? said.slice(at, (at += max)) : read(max, ms))
      expect(await sendXmodem(port, image, form)).toMatchObject({ check: 'sum', blocks: 32, retries: 0 })
    },
  )
  it('three of them in a row are one, however soon they come', async () => {
    const { port } = babbles(9)
    await port.read(1, 0)
    const { read } = port
    let asked = 0
    port.read = async (max, ms) => (asked++ < 3 ? Uint8Array.of(0x43) : read(max, ms))
    expect(await sendXmodem(port, image, form)).toMatchObject({ check: 'crc', blocks: 4 })
    expect(asked).toBeGreaterThan(3)
  })
  it('some lines of noise before the answer are passed over', async () => {
    const { port } = babbles(9, 'level 1.4 m\r\n'.repeat(10))
    expect(await sendXmodem(port, image, { ...form, tries: 1 })).toMatchObject({ blocks: 4, retries: 0 })
  })
})

describe('a unit that prints in place of its image', () => {
  it('is not read without end', async () => {
    const { port } = babbles(-1)
    const taken: Uint8Array[] = []
    // What is asked of it sets it talking.
    const act = receiveXmodem(port, { onBlock: (data) => void taken.push(data) })
    expect(await act.catch((error: unknown) => (error as Problem).facts)).toMatchObject({
      kind: 'xmodem-no-sender',
      says: 'the unit talks and sends no block',
      place: { offset: 0 },
    })
    expect(taken).toEqual([])
  })
})
