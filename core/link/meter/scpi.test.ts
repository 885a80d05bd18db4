import { describe, expect, it } from 'vitest'
import type { Port } from '../port'
import { readScpiNumber, scpiMeter } from './scpi'

/* A bench meter in its own words: SCPI-1999, volume 2 (MEASure); numbers by IEEE 488.2, 8.7.2 to 8.7.4 (NR1, NR2, NR3). */

describe('a number of an instrument', () => {
  it.each<[string, number]>([
    ['12', 12],
    ['12.41', 12.41],
    ['+12.41', 12.41],
    ['-0.5', -0.5],
    ['.5', 0.5],
    ['.25', 0.25],
    ['12.', 12],
    ['+1.241E+01', 12.41],
    ['1.241e1', 12.41],
    ['1241E-2', 12.41],
    [' 12.41\r\n', 12.41],
    ['0', 0],
    ['8.9E37', 8.9e37],
  ])('%j is %d', (text, value) => {
    expect(readScpiNumber(text)).toBeCloseTo(value, 6)
  })
  // SCPI-1999, volume 1, 7.2.1.4: 9.9E37 is infinity, -9.9E37 minus infinity, 9.91E37 not a number.
  it.each([
    '9.9E37',
    '-9.9E37',
    '9.91E37',
    '9E37',
    '1E999',
    '',
    '.',
    '+',
    'E1',
    '12 V',
    'V 12',
    '12,41',
    '1.2.3',
    '0x10',
    'NaN',
    '1E',
    'x.5',
    '.x',
    '12.41;OVLD',
  ])('%j is none', (text) => {
    expect(() => readScpiNumber(text)).toThrow('the meter did not answer with a voltage')
  })
  it('what came is shown, and no more of it than fits a line', () => {
    try {
      readScpiNumber('x'.repeat(100))
      expect.fail('it was taken')
    } catch (error) {
      expect(error).toMatchObject({
        facts: {
          kind: 'meter-number',
          found: `"${'x'.repeat(40)}"`,
          expected: expect.stringMatching(/\d/),
          remedy: expect.stringMatching(/direct voltage/),
        },
      })
    }
  })
})

describe('a meter', () => {
  const meter = (answers: (string | null)[], form = {}) => {
    const asked: string[] = []
    const waits: number[] = []
    let open = false
    const port = {
      name: 'meter',
      write: async (bytes: Uint8Array) => {
        asked.push(Buffer.from(bytes).toString())
        open = true
      },
      async read(_: number, ms: number) {
        if (!open) return null
        waits.push(ms)
        const next = answers.shift()
        return next === undefined || next === null ? null : Uint8Array.from(Buffer.from(next))
      },
    } as unknown as Port
    return { asked, waits, volts: () => scpiMeter(port, form).volts() }
  }
  it('is asked for its voltage, or as the profile says, with a line end', async () => {
    const usual = meter(['12.4', '1\n'])
    expect(await usual.volts()).toBe(12.41)
    expect(usual.asked).toEqual(['MEAS:VOLT?\n'])
    expect(usual.waits).toEqual([1000, 1000])
    const own = meter(['1\n'], { query: 'READ?', timeoutMs: 50 })
    await own.volts()
    expect(own.asked).toEqual(['READ?\n'])
    expect(own.waits).toEqual([50])
  })
  it('says what stands on its first line, whatever it says behind it', async () => {
    expect(await meter(['12.41\n+0,"No error"\n']).volts()).toBe(12.41)
  })
  it('that is silent, breaks off or never ends its line measured nothing', async () => {
    expect(await meter([]).volts()).toBeNull()
    expect(await meter(['12.4', null]).volts()).toBeNull()
    expect(await meter(Array.from({ length: 99 }, () => '1234')).volts()).toBeNull()
    // 256 characters are borne, one more is not.
    await expect(meter([' '.repeat(250), '12.41', '\n']).volts()).resolves.toBe(12.41)
    expect(await meter([' '.repeat(257), '\n']).volts()).toBeNull()
  })
})
