import { serialLine, type Disturb } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asciiBytes, equalBytes, virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import {
  ACK,
  blockCount,
  decodeBlock,
  encodeBlock,
  receiveXmodem,
  sendXmodem,
  SOH,
  STX,
  xmodemWireMs,
} from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const settings: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 31 + (at >> 8)) & 255)

async function bench(disturb?: Disturb) {
  const clock = virtualClock(turn)
  const line = serialLine({ name: 'line', clock, unit: settings, ...(disturb ? { disturb } : {}) })
  await line.host.open(settings)
  return { clock, ...line }
}

/** Sends over a line to the receiving half; what came out, and how long it took in virtual time. */
async function transfer(
  bytes: Uint8Array,
  blockBytes: 128 | 1024,
  disturb?: Disturb,
  form: { crcAskings?: number } = {},
) {
  const { clock, host, unit } = await bench(disturb)
  const out: number[] = []
  const receiving = receiveXmodem(unit, { onBlock: (data) => void out.push(...data), ...form })
  const from = clock.now()
  const sent = await sendXmodem(host, bytes, { blockBytes, padByte: 0xff })
  const tookMs = clock.now() - from
  return { sent, received: await receiving, out: Uint8Array.from(out), tookMs }
}

describe('XMODEM blocks', () => {
  // Source: Forsberg 1988, sections 4 (block format), 7.3 (CRC-16, high byte first); the CRC of "123456789" is 0x31C3.
  it('are header, number, complement, data, CRC high byte first', () => {
    const data = new Uint8Array(128)
    data.set(asciiBytes('123456789'), 119)
    const block = encodeBlock(1, data, 'crc')
    expect([...block.subarray(0, 3)]).toEqual([SOH, 1, 254])
    // Leading zeros do not change a CRC that starts at 0, so the check value of the catalogue shows here.
    expect([...block.subarray(131)]).toEqual([0x31, 0xc3])
    expect(encodeBlock(2, new Uint8Array(1024), 'crc')[0]).toBe(STX)
    expect(encodeBlock(1, data.fill(2), 'sum')[131]).toBe((2 * 128) & 255)
  })
  it('number on past 255', () => {
    expect([...encodeBlock(256, new Uint8Array(128), 'crc').subarray(1, 3)]).toEqual([0, 255])
  })
  it('are refused with a wrong complement or check, and never throw', () => {
    const block = encodeBlock(7, patterned(128), 'crc').subarray(1)
    expect(decodeBlock(block, 'crc')?.number).toBe(7)
    fc.assert(
      fc.property(fc.nat(block.length - 1), fc.integer({ min: 1, max: 255 }), (at, flip) => {
        const damaged = Uint8Array.from(block)
        damaged[at]! ^= flip
        expect(decodeBlock(damaged, 'crc')).toBeNull()
      }),
    )
    fc.assert(fc.property(fc.uint8Array({ maxLength: 40 }), (bytes) => void decodeBlock(bytes, 'crc')))
  })
})

describe('sender and receiver', () => {
  it.each([1, 127, 128, 129, 896, 897, 1024, 1025, 5000])(
    'carry %i bytes, padded with what was asked',
    async (length) => {
      for (const blockBytes of [128, 1024] as const) {
        const bytes = patterned(length)
        const { out, received, sent } = await transfer(bytes, blockBytes)
        expect(equalBytes(out.subarray(0, length), bytes)).toBe(true)
        expect([...new Set(out.subarray(length))]).toEqual(out.length > length ? [0xff] : [])
        const { large, small } = blockCount(length, blockBytes)
        expect(received.blocks).toBe(large + small)
        expect(sent.check).toBe('crc')
      }
    },
  )
  // Source: Forsberg 1988, section 8: a receiver that is not answered falls back to NAK and sums.
  it('fall back to sums when the receiver asks with NAK', async () => {
    const { sent, out } = await transfer(patterned(300), 1024, undefined, { crcAskings: 0 })
    expect(sent).toMatchObject({ check: 'sum', blocks: 3 })
    expect(equalBytes(out.subarray(0, 300), patterned(300))).toBe(true)
  })
  it('send a flipped block again, and only that one', async () => {
    let blocks = 0
    const { sent, received, out } = await transfer(patterned(10_240), 1024, (bytes, to) => {
      if (to !== 'unit' || bytes.length < 1000 || ++blocks !== 4) return bytes
      return bytes.map((byte, at) => (at === 100 ? byte ^ 1 : byte))
    })
    expect(sent.retries).toBe(1)
    expect(received.duplicates).toBe(0)
    expect(equalBytes(out, patterned(10_240))).toBe(true)
  })
  // Source: Forsberg 1988, section 7.2: a repeated block number is acknowledged and not taken twice.
  it('take a block once when its acknowledgement was lost', async () => {
    let acks = 0
    const { received, out } = await transfer(patterned(5120), 1024, (bytes, to) =>
      to === 'host' && bytes[0] === ACK && ++acks === 2 ? new Uint8Array() : bytes,
    )
    expect(received.duplicates).toBe(1)
    expect(equalBytes(out, patterned(5120))).toBe(true)
  })
  it('stay true under any single lost or flipped chunk', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(14), fc.boolean(), async (chunk, lost) => {
        let count = 0
        const { out } = await transfer(patterned(6000), 1024, (bytes) => {
          if (count++ !== chunk) return bytes
          return lost ? new Uint8Array() : bytes.map((byte) => byte ^ 0x40)
        })
        expect(equalBytes(out.subarray(0, 6000), patterned(6000))).toBe(true)
      }),
      { numRuns: 30 },
    )
  })
})

describe('time on the wire', () => {
  // Source: the formula of the trade, (1 024 + 5 + 1) × 10 / 115 200 s a block, 10 bits a character at 8N1.
  it('is blocks of 1 030 characters', () => {
    expect(xmodemWireMs(262_144, 1024, settings)).toBeCloseTo((256 * 1030 * 10 * 1000) / 115_200, 6)
  })
  it('is not lengthened by the link: 256 KiB within 1 % of the wire', async () => {
    const { tookMs } = await transfer(patterned(262_144), 1024)
    expect(tookMs / xmodemWireMs(262_144, 1024, settings)).toBeLessThan(1.01)
  })
})
