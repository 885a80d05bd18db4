import { demoFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import type { Over } from '../drive/protocol'
import { speechOf } from '../trace'
import { uploadTime, type BusUpload } from '.'
import { udsProtocol } from './protocol'

/*
 * Frames of a transfer by ISO 15765-2 (9.6: a single frame to seven bytes, a first frame of six, then seven each; one byte less
 * with an address in each) and ISO 14229-1 (service 34 says how long a message is, service 36 and its counter included; two bytes
 * answer). A frame of eight bytes is 108 bits and three between frames, 24 stuff bits more at the most (ISO 11898-1).
 */

const bus: BusUpload = { bitsPerSecond: 500_000, messageBytes: 0x402 }

describe('the frames of an image over the vehicle bus', () => {
  it.each([
    // 102 bytes in a message: 6 + 14 × 7 ≥ 102, so 15 frames; leave and answer: 2.
    ['a hundred bytes', 100, bus, 17],
    // 1 026 bytes: 6 + 146 × 7 ≥ 1 026, so 147 frames and 2, twice.
    ['two whole messages', 2048, bus, 298],
    ['one more byte than two', 2049, bus, 300],
    // 5 + 2 bytes are a single frame, answered by one; 6 + 2 are two frames, with leave and answer.
    ['a rest that is one frame', 1024 + 5, bus, 149 + 2],
    ['a rest that is none any more', 1024 + 6, bus, 149 + 4],
    ['nothing', 0, bus, 0],
    // With an address: 6 bytes in a single frame, 5 in the first, 6 in each that follows: 102 → 1 + 17.
    ['a hundred bytes with addresses', 100, { ...bus, addressed: true }, 20],
    ['four bytes with addresses', 4, { ...bus, addressed: true }, 2],
    ['five bytes with addresses', 5, { ...bus, addressed: true }, 4],
    // Messages of 20 bytes: 18 of data; 6 + 2 × 7 = 20: 3 frames and 2, five times; 10 bytes left are 12: 2 and 2.
    ['short messages', 100, { ...bus, messageBytes: 20 }, 29],
  ] as const)('%s', (_, bytes, form, frames) => {
    const time = uploadTime(bytes, form)
    expect(time.frames).toBe(frames)
    expect(time.minMs).toBeCloseTo((frames * 111) / 500, 6)
    expect(time.maxMs).toBeCloseTo((frames * 135) / 500, 6)
    expect(time.likelyMs).toBeGreaterThanOrEqual(time.minMs)
    expect(time.likelyMs).toBeLessThanOrEqual(time.maxMs)
  })
  it('go as text to an adapter: 22 characters each, and two in answer to one that is sent', () => {
    const adapter = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 } as const
    const text = ((17 * 22 + 15 * 2) * 10 * 1000) / 115_200
    expect(uploadTime(100, { ...bus, adapter }).minMs).toBeCloseTo((17 * 111) / 500 + text, 6)
  })
})

describe('services on the vehicle bus, as a plan and a trace know them', () => {
  const link = demoFamily('launch-motor').links.find(({ drive }) => drive?.speaks === 'uds') as Over<'uds'>
  const driven = (change: object) => ({ ...link, drive: { ...link.drive, ...change } }) as Over<'uds'>

  it('take the time of their frames, with a byte of address where each has one', () => {
    const { bitsPerSecond } = link.drive
    const ms = (addressed: boolean) =>
      uploadTime(5000, { bitsPerSecond, messageBytes: 0x402, adapter: link.line!, addressed }).likelyMs
    const addresses = { own: 0xf1, unit: 0x10 }
    expect(udsProtocol.times.writeMs!(driven({ addresses: undefined }), 5000)).toBe(ms(false))
    expect(udsProtocol.times.writeMs!(driven({ addresses }), 5000)).toBe(ms(true))
    expect(ms(true)).toBeGreaterThan(ms(false))
  })
  it('read a page line by line, those of further controllers too', () => {
    const line = { field: 'version.main', identifier: 1, as: 'text' }
    const own = { ...link.drive, page: [line, line] }
    expect(udsProtocol.times.pageMs!(driven({ ...own, controllers: undefined }))).toBe(30)
    const controllers = [{ component: 'second', requestId: 0x7e1, answerId: 0x7e9, page: [line] }]
    expect(udsProtocol.times.pageMs!(driven({ ...own, controllers }))).toBe(45)
  })
  it('are told to a trace by their identifiers', () => {
    const [requestId, answerId] = [0x7e0, 0x7e8]
    const ids = { requestId, answerId, addresses: undefined, controllers: undefined }
    expect(speechOf(driven(ids))).toEqual({ speaks: 'uds', requestId, answerId })
    const others = [{ component: 'second', requestId: 0x7e1, answerId: 0x7e9, page: [] }]
    expect(speechOf(driven({ ...ids, addresses: { own: 1, unit: 2 }, controllers: others }))).toEqual({
      speaks: 'uds',
      requestId,
      answerId,
      addressed: true,
      others: [{ requestId: 0x7e1, answerId: 0x7e9 }],
    })
  })
})
