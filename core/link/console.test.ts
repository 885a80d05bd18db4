import { fogSignalFamily } from '@bench-wake/demo'
import { serialLine } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import type { Link } from '../family'
import { asciiBytes, isProblem, virtualClock } from '../kernel'
import { askConsole, readScpiNumber, scpiMeter, wireMs, bitsPerCharacter, type SerialSettings } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const { console: dialect, settings } = fogSignalFamily.links[0] as Link

async function bench(reply: string, host: SerialSettings = settings) {
  const clock = virtualClock(turn)
  const line = serialLine({ name: 'line', clock, unit: settings })
  await line.host.open(host)
  // The unit's side: after anything is heard, it says its reply.
  void line.unit.read(64, 10_000).then((heard) => heard && line.unit.write(asciiBytes(reply)))
  return { clock, port: line.host }
}

describe('asking a text console', () => {
  const exchange = {
    send: 'crc {a:hex8}',
    reads: 'crc {crc32}',
    progress: 'sector {done}/{total}',
    timeoutMs: 500,
  }
  it('gathers lines and slots until the closing line, past the echo, with any line end', async () => {
    const { port } = await bench('crc 00000010\r\nsector 1/2\nsector 2/2\r\ncrc CBF43926\rok\r\n')
    const seen: string[] = []
    const answer = await askConsole(port, dialect, exchange, {
      values: { a: 16 },
      onProgress: (done, total) => void seen.push(`${done}/${total}`),
    })
    expect(seen).toEqual(['1/2', '2/2'])
    expect(answer).toEqual({ lines: ['crc CBF43926'], values: { crc32: 'CBF43926' } })
  })
  it('gives the unit’s own reason when it refuses', async () => {
    const { port } = await bench('error outside the application\r\n')
    const error = await askConsole(port, dialect, exchange, { values: { a: 0 } }).catch(
      (reason: unknown) => reason,
    )
    expect(isProblem(error, 'unit-refused') && error.facts.found).toBe('outside the application')
  })
  // PRACTICE F2, common practice: swapped pair, bad contact, not in the bootloader, in that order of ease.
  it('says after silence what to check first, and takes no longer than the time-out', async () => {
    const { port, clock } = await bench('')
    const error = await askConsole(port, dialect, exchange, { values: { a: 0 } }).catch(
      (reason: unknown) => reason,
    )
    expect(isProblem(error, 'no-answer') && error.facts.remedy).toMatch(
      /^Check in this order: transmit and receive swapped/,
    )
    expect(clock.now()).toBeLessThan(600)
  })
  it('hears only noise at a wrong speed', async () => {
    const { port } = await bench('ok\r\n', { ...settings, baudRate: 9600 })
    const error = await askConsole(port, dialect, exchange, { values: { a: 0 } }).catch(
      (reason: unknown) => reason,
    )
    expect(isProblem(error, 'no-answer')).toBe(true)
  })
})

describe('characters on the wire', () => {
  // Source: asynchronous serial framing: start bit, data, parity, stop; 8N1 is 10 bits, 8E2 is 12.
  it('take their bits', () => {
    expect(bitsPerCharacter(settings)).toBe(10)
    expect(bitsPerCharacter({ ...settings, parity: 'even', stopBits: 2 })).toBe(12)
    expect(wireMs(11_520, settings)).toBeCloseTo(1000, 9)
  })
})

describe('a meter that answers SCPI', () => {
  // Source: IEEE 488.2, 8.7.2 to 8.7.4: NR1, NR2 and NR3 forms; SCPI-1999 vol. 1, 7.2: 9.9E37 and 9.91E37.
  it.each([
    ['12', 12],
    ['12.41', 12.41],
    ['+1.241E+01\n', 12.41],
    ['-5.0e-3', -0.005],
  ])('%s is %d', (text, value) => {
    expect(readScpiNumber(text)).toBeCloseTo(value, 9)
  })
  it.each(['9.9E37', '9.91E+37', 'OVLD', '', '12.4 V'])('%s is refused', (text) => {
    expect(() => readScpiNumber(text)).toThrow(/number such as/)
  })
  it('that stays silent gives not known, not a number', async () => {
    const { port } = await bench('')
    expect(await scpiMeter(port, 200).volts()).toBeNull()
  })
  it('is read by its number', async () => {
    const { port } = await bench('+1.2410000E+01\n')
    expect(await scpiMeter(port).volts()).toBeCloseTo(12.41, 6)
  })
})
