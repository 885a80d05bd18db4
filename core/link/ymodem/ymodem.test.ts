import { serialLine, type Disturb } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asciiBytes, asciiText, equalBytes, virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import { decodeHeader, encodeHeader, receiveYmodem, sendYmodem, type BatchFile, type FileHeader } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const settings: SerialSettings = { baudRate: 38_400, dataBits: 8, parity: 'none', stopBits: 1 }
const patterned = (length: number, seed = 31) =>
  Uint8Array.from({ length }, (_, at) => (at * seed + (at >> 8)) & 255)

async function transfer(files: BatchFile[], disturb?: Disturb, crcAskings?: number) {
  const clock = virtualClock(turn)
  const line = serialLine({ name: 'line', clock, unit: settings, ...(disturb ? { disturb } : {}) })
  await line.host.open(settings)
  const got: { header: FileHeader; bytes: number[] }[] = []
  const receiving = receiveYmodem(line.unit, {
    onFile: (header) => void got.push({ header, bytes: [] }),
    onData: (data) => void got[got.length - 1]!.bytes.push(...data),
    ...(crcAskings === undefined ? {} : { crcAskings }),
  })
  const progress: number[] = []
  const sent = await sendYmodem(line.host, files, {
    blockBytes: 1024,
    padByte: 0x1a,
    report: ({ done }) => void progress.push(done),
  })
  await receiving
  return { got, sent, progress }
}

describe('block 0', () => {
  // Source: Forsberg 1988, section 5: name, NUL, decimal length, a space, the time in octal; the rest zero.
  it('is name, NUL, decimal size, octal seconds', () => {
    const data = encodeHeader({ name: 'RADIO.BIN', size: 81_920, changedAt: 1_700_000_000_000 })
    expect(asciiText(data.subarray(0, 30)).replace(/\0+$/, '')).toBe('RADIO.BIN\x0081920 14524770400')
    expect(data.length).toBe(128)
    expect(decodeHeader(data)).toEqual({ name: 'RADIO.BIN', size: 81_920, changedAt: 1_700_000_000_000 })
  })
  // Source: the same: an empty name ends the batch; senders may leave out size and time.
  it('with an empty name ends the batch; one without numbers is a file of unknown size', () => {
    expect([...new Set(encodeHeader(null))]).toEqual([0])
    expect(decodeHeader(encodeHeader(null))).toBeNull()
    const bare = new Uint8Array(128)
    bare.set(asciiBytes('a.bin'))
    expect(decodeHeader(bare)).toEqual({ name: 'a.bin' })
  })
  it('goes in a large block where the name needs it, and is refused where it fits none', () => {
    expect(encodeHeader({ name: 'n'.repeat(200), size: 1 }).length).toBe(1024)
    expect(() => encodeHeader({ name: 'n'.repeat(1100), size: 1 })).toThrow(RangeError)
    expect(() => encodeHeader({ name: '', size: 1 })).toThrow(RangeError)
  })
  it('of any bytes is read without throwing', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 1024 }), (bytes) => void decodeHeader(bytes)))
  })
})

describe('a batch', () => {
  const files = [
    { name: 'RADIO.BIN', bytes: patterned(5000) },
    { name: 'VOICE.BIN', bytes: patterned(128, 7) },
    { name: 'EMPTY.BIN', bytes: new Uint8Array(0) },
  ]
  const arrived = (got: { header: FileHeader; bytes: number[] }[]) =>
    files.every(({ name, bytes }, index) => {
      const { header, bytes: out } = got[index]!
      return header.name === name && header.size === bytes.length && equalBytes(Uint8Array.from(out), bytes)
    })

  it('carries several files to their last byte, without the padding', async () => {
    const { got, sent, progress } = await transfer(files)
    expect(arrived(got)).toBe(true)
    expect(sent.map(({ check }) => check)).toEqual(['crc', 'crc', 'crc'])
    expect(progress[progress.length - 1]).toBe(5128)
  })
  // Source: Forsberg 1988, section 8: a receiver that asks with NAK gets sums.
  it('falls back to sums', async () => {
    const { got, sent } = await transfer(files, undefined, 0)
    expect(arrived(got)).toBe(true)
    expect(sent[0]!.check).toBe('sum')
  })
  it('arrives under any single lost or flipped chunk', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(40), fc.boolean(), async (chunk, lost) => {
        let count = 0
        const { got } = await transfer(files, (bytes) => {
          if (count++ !== chunk) return bytes
          return lost ? new Uint8Array() : bytes.map((byte) => byte ^ 0x40)
        })
        expect(arrived(got)).toBe(true)
      }),
      { numRuns: 60 },
    )
  })
})
