import { serialLine } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asciiBytes, virtualClock, type Clock } from '../kernel'
import type { Port, SerialSettings } from './port'
import { bestSpeed, findSpeed, readableShare, sevenBitParity, usualSpeeds } from './speed-finder'

const turn = () => new Promise<void>((done) => setImmediate(done))
const withParity = (text: string, odd: boolean) =>
  asciiBytes(text).map((byte) => {
    const ones = byte.toString(2).replaceAll('0', '').length
    return (ones % 2 === 1) !== odd ? byte | 0x80 : byte
  })

/** A unit at one speed: it answers whatever it is asked, or talks by itself. */
async function search(
  unit: SerialSettings,
  play: (port: Port, after: (ms: number) => Promise<void>) => Promise<void>,
  sends = '\r',
) {
  const clock = virtualClock(turn)
  const line = serialLine({ name: 'unit', clock, unit })
  await line.host.open({ ...unit, baudRate: 300 })
  void play(line.unit, (ms) => clock.sleep(ms)).catch(() => {})
  const heard = await findSpeed(line.host, clock, { eachMs: 300, sends })
  line.pull()
  return { heard, best: bestSpeed(heard), took: clock.now() }
}
const answering = async (port: Port) => {
  for (;;) if (await port.read(64, Infinity)) await port.write(asciiBytes('Pilot lamp 7\r\nready> '))
}

describe('looking for the speed', () => {
  it.each([...usualSpeeds])('finds %s baud by the one answer that makes sense', async (baudRate) => {
    const unit = { baudRate, dataBits: 8, parity: 'none', stopBits: 1 } as const
    const { best, heard, took } = await search(unit, answering)
    expect(best?.settings).toEqual(unit)
    expect(heard.map(({ settings }) => settings.baudRate)).toEqual([...usualSpeeds])
    expect(took).toBeLessThan(usualSpeeds.length * 320)
  })
  it('finds it by a prompt of three characters alone', async () => {
    const unit = { baudRate: 57_600, dataBits: 8, parity: 'none', stopBits: 1 } as const
    const { best } = await search(unit, async (port) => {
      for (;;) if (await port.read(64, Infinity)) await port.write(asciiBytes('=> '))
    })
    expect(best?.settings.baudRate).toBe(57_600)
  })
  it('only listens where nothing is to be sent', async () => {
    let asked = 0
    const unit = { baudRate: 19_200, dataBits: 8, parity: 'none', stopBits: 1 } as const
    const { best } = await search(
      unit,
      async (port, after) => {
        void (async () => {
          for (;;) asked += (await port.read(64, Infinity))?.length ?? 0
        })().catch(() => {})
        for (;;) {
          await port.write(asciiBytes('temp 21.4 C\r\n'))
          await after(40)
        }
      },
      '',
    )
    expect(best?.settings.baudRate).toBe(19_200)
    expect(asked).toBe(0)
  })
  it('finds none where nothing answers, and none in noise', async () => {
    const unit = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 } as const
    expect((await search(unit, async () => {})).best).toBeNull()
    const noise = async (port: Port) => {
      for (;;)
        if (await port.read(64, Infinity)) await port.write(Uint8Array.from([0, 255, 131, 7, 200, 14, 3]))
    }
    expect((await search(unit, noise)).best).toBeNull()
  })
})

describe('what a search does on the line', () => {
  const settings = { baudRate: 300, dataBits: 7, parity: 'odd', stopBits: 2, flow: 'rts-cts' } as const
  /** A port that says the same whenever it is read and has not said it at this asking. */
  async function searched(says: Uint8Array, form: { sends?: string; asks?: number } = {}) {
    const did: unknown[] = []
    let [now, left] = [0, 1]
    const port = {
      settings,
      open: async (next: SerialSettings) => void did.push(next),
      write: async (bytes: Uint8Array) => {
        did.push(String.fromCharCode(...bytes))
        left = form.asks ?? 1
      },
      read: async (_: number, timeoutMs: number) => {
        if (timeoutMs === 0) return null
        if (left-- > 0) return says
        now += timeoutMs
        return null
      },
    } as unknown as Port
    const clock: Pick<Clock, 'now'> = { now: () => now }
    const heard = await findSpeed(port, clock, { speeds: [9600], eachMs: 300, sends: form.sends ?? '?' })
    return { did, heard: heard[0]!, took: now }
  }
  it('opens it at eight bits without parity, all else as it was, and asks three times', async () => {
    const { did, heard, took } = await searched(asciiBytes('ok'))
    expect(did).toEqual([{ ...settings, baudRate: 9600, dataBits: 8, parity: 'none' }, '?', '?', '?'])
    expect([...heard.bytes]).toEqual([...asciiBytes('okokok')])
    expect(took).toBe(300)
  })
  it('sends nothing where nothing is to be sent', async () => {
    expect((await searched(asciiBytes('ok'), { sends: '' })).did).toHaveLength(1)
  })
  it('does not listen without end to a unit that talks without end', async () => {
    const { heard, took } = await searched(new Uint8Array(1024).fill(65), { asks: 1000 })
    expect(heard.bytes).toHaveLength(4096)
    expect(took).toBe(0)
  })
  it('reads seven bits with parity as such where an eighth bit is set, plain text as it is', async () => {
    const { heard } = await searched(withParity('Meter ready 12.4\r\n', false))
    expect(heard).toMatchObject({ settings: { dataBits: 7, parity: 'even' }, readable: 1 })
    expect(String.fromCharCode(...heard.bytes)).toContain('Meter ready 12.4')
    // Letters of an even number of ones, whose parity bit is never set: they read the same either way.
    const plain = await searched(asciiBytes('cccc'))
    expect(plain.heard).toMatchObject({ settings: { dataBits: 8, parity: 'none' }, readable: 1 })
    const noise = await searched(Uint8Array.of(0x80, 0, 0x81, 0))
    expect(noise.heard).toMatchObject({ settings: { dataBits: 8, parity: 'none' }, readable: 0 })
  })
})

describe('the speed that gives sense', () => {
  const heard = (length: number, readable: number | null, baudRate = 9600) => ({
    settings: { baudRate, dataBits: 8, parity: 'none', stopBits: 1 } as const,
    bytes: new Uint8Array(length),
    readable,
  })
  it.each([
    [4, 0.85, true],
    [3, 1, false],
    [100, 0.84, false],
    [0, null, false],
    [4, null, false],
  ])('%i bytes of which %s can be read: %s', (length, readable, sense) => {
    expect(bestSpeed([heard(length, readable)]) !== null).toBe(sense)
  })
  it('is the one with the most text, the first of two that have as much', () => {
    const [few, many, same] = [heard(10, 1, 1), heard(12, 0.9, 2), heard(12, 0.9, 3)]
    expect(bestSpeed([few, many])).toBe(many)
    expect(bestSpeed([many, few])).toBe(many)
    expect(bestSpeed([many, same])).toBe(many)
    expect(bestSpeed([])).toBeNull()
  })
})

describe('what can be read', () => {
  it.each([
    [8, 0],
    [9, 1],
    [10, 1],
    [11, 0],
    [13, 1],
    [31, 0],
    [32, 1],
    [126, 0.5],
    [127, 0],
    [128, 0],
    [255, 0],
    [0x41, 1],
    [0x39, 1],
    [0x3e, 1],
    [0x2e, 1],
    [0x25, 0.5],
  ])('of the byte %i is %s', (byte, share) => expect(readableShare(Uint8Array.of(byte))).toBe(share))
  it('of text is all, of nothing is not known', () => {
    expect(readableShare(asciiBytes('boot> '))).toBe(1)
    expect(readableShare(new Uint8Array(0))).toBeNull()
  })
  it('of any noise is seldom much: of a hundred drawn by chance none passes for text', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 40, maxLength: 200 }), (bytes) => {
        // Only noise whose bytes are spread: a run of one letter is text.
        fc.pre(new Set(bytes).size > 30 && bytes.filter((byte) => byte > 127).length > 8)
        return readableShare(bytes)! < 0.85
      }),
    )
  })
  // Source: parity as RS-232 practice has it: the eighth bit makes the number of ones even, or odd.
  it.each(['even', 'odd'] as const)('of seven bits with %s parity is their text', (parity) => {
    expect(sevenBitParity(withParity('Meter ready 12.4\r\n', parity === 'odd'))).toBe(parity)
  })
  it('is no parity where one byte is against it, or too little came', () => {
    const bytes = withParity('Meter ready\r\n', false)
    bytes[3]! ^= 0x80
    expect(sevenBitParity(bytes)).toBeNull()
    expect(sevenBitParity(withParity('abc', false))).toBeNull()
    expect(sevenBitParity(withParity('abcd', false))).toBe('even')
    // 0x00 has an even number of ones and is no text.
    expect(sevenBitParity(new Uint8Array(20))).toBeNull()
    // Seventeen in twenty are enough, sixteen are not.
    const partly = (text: number) => Uint8Array.from({ length: 20 }, (_, at) => (at < text ? 0x41 : 0))
    expect([sevenBitParity(partly(17)), sevenBitParity(partly(16))]).toEqual(['even', null])
  })
})
