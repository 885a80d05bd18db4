import { serialLine } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asciiBytes, virtualClock } from '../kernel'
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

describe('what can be read', () => {
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
  })
})
