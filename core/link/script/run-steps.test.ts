import { describe, expect, it } from 'vitest'
import { asciiBytes } from '../../kernel'
import { factsOf } from '../refusal.test-support'
import type { TimedUnit } from '../timed-port.test-support'
import { atHand, settings } from './script-bench.test-support'

/* Each step by what it does at the line. */

const nobody: TimedUnit = () => []
const says =
  (text: string): TimedUnit =>
  () => [[1, [...asciiBytes(text)]]]
const send = (text: string) => ({ do: 'send', text })
const awaits = (...patterns: object[]) => ({ do: 'expect', patterns, withinMs: 100 })

/** Runs steps at a unit that answers by hand. */
async function run(
  steps: object[],
  unit: TimedUnit = nobody,
  form: { image?: number[]; flow?: 'rts-cts'; raised?: () => boolean } = {},
) {
  const line = form.flow ? { ...settings, flow: form.flow } : settings
  const { clock, driver, written, opened, lines } = atHand({ write: { steps } }, unit, { line })
  const image = Uint8Array.from(form.image ?? [1, 2, 3, 4])
  const abandon = {
    get raised() {
      return form.raised?.() ?? false
    },
  }
  const did = driver.run('write', { range: { address: 0x100, length: image.length }, image, abandon })
  const facts = await factsOf(did)
  return {
    facts,
    opened,
    lines,
    tookMs: clock.now(),
    done: facts ? null : await did,
    written: written.map((bytes) => Buffer.from(bytes).toString('latin1')),
  }
}

describe('control lines', () => {
  it('are set as they are named, and no other, for as long as is said', async () => {
    const { lines, tookMs } = await run([
      { do: 'lines', dtr: false, rts: true, forMs: 120 },
      { do: 'lines', brk: true, forMs: 30 },
      { do: 'lines', rts: false, forMs: 0 },
    ])
    expect(lines).toEqual([{ dtr: false, rts: true }, { brk: true }, { rts: false }])
    expect(tookMs).toBe(150)
  })
})

describe('another speed', () => {
  it('is that alone: parity, bits and flow stay as they are', async () => {
    const change = { do: 'speed', baudRate: 57_600 }
    expect((await run([change])).opened).toEqual([{ ...settings, baudRate: 57_600 }])
    expect((await run([change], nobody, { flow: 'rts-cts' })).opened).toEqual([
      { ...settings, baudRate: 57_600, flow: 'rts-cts' },
    ])
  })
  it('may bring its own parity and flow, or take the flow away', async () => {
    const wide = { do: 'speed', baudRate: 9600, parity: 'even', flow: 'xon-xoff' }
    expect((await run([wide])).opened).toEqual([
      { ...settings, baudRate: 9600, parity: 'even', flow: 'xon-xoff' },
    ])
    const bare = await run([{ do: 'speed', baudRate: 9600, flow: 'none' }], nobody, { flow: 'rts-cts' })
    expect(bare.opened).toEqual([{ ...settings, baudRate: 9600 }])
  })
})

it('a pause lasts as long as it says', async () => {
  expect((await run([{ do: 'wait', ms: 250 }])).tookMs).toBe(250)
})

describe('a sum', () => {
  // 1 + 2 + 3 + 4 = 10; the pieces 3 and 7.
  it('is over the piece that is due, or over all', async () => {
    const sum = (over: string) => ({ do: 'compute', into: 'sum', checksum: 'sum8', over })
    const inPieces = (over: string) => [
      { do: 'each', of: 'chunk', bytes: 2, steps: [sum(over), send('{sum} ')] },
    ]
    expect((await run(inPieces('data'))).written).toEqual(['3 ', '7 '])
    expect((await run(inPieces('image'))).written).toEqual(['10 ', '10 '])
  })
  it.each([
    ['text', 'sum {sum}\n', 'sum a\n', '0A'],
    ['text with a mark before it', 'sum {sum}\n', 'sum 0x0a\n', '0A'],
    ['digits', 'sum {sum:hex2}\n', 'sum 0a\n', '0A'],
    ['bytes', 'sum {sum:bytes}\n', 'sum 0a\n', '0A'],
    ['digits with a mark before them', 'sum 0x{sum:hex2}\n', 'sum 0x0a\n', '0A'],
    ['another', 'sum {sum:hex2}\n', 'sum 1a\n', '1A'],
  ])('that the unit gives as %s is held against it', async (_how, text, answer, found) => {
    const steps = [send('?'), awaits({ text }), { do: 'compare', slot: 'sum', checksum: 'sum8' }]
    expect((await run(steps, says(answer))).done!.compared).toEqual([
      { name: '8-bit sum', expected: '0A', found },
    ])
  })
})

describe('a key', () => {
  const steps = (seed: string) => [
    send('?'),
    awaits({ text: seed }),
    { do: 'key', seed: 'seed', into: 'key', steps: [{ do: 'xor', by: '0xFF' }] },
    send('{key}'),
  ]
  const key = async (seed: string, answer: string) => (await run(steps(seed), says(answer))).written[1]
  // Inverted in its last byte: 12 34 → 12 CB; a number has four bytes.
  it('is reckoned of bytes, of a number, and of characters', async () => {
    expect(await key('{seed:bytes}\n', '12 34\n')).toBe('\x12\xcb')
    expect(await key('{seed:hex4}\n', '1234\n')).toBe('\0\0\x12\xcb')
    expect(await key('{seed}\n', 'ab\n')).toBe('a\x9d')
  })
  it('of a seed that no sum is for is refused in words', async () => {
    const { facts, written } = await run(steps('{seed:bytes}\n'), says('12 34 56 78 9a\n'))
    expect(facts).toMatchObject({ kind: 'seed-length', found: '123456789a' })
    expect(written).toHaveLength(1)
  })
})

it('what it tells stands on the page, its slots filled', async () => {
  const steps = [
    send('?'),
    awaits({ text: 'v{version}\n' }),
    { do: 'tell', field: 'version', value: '{version} at {address:hex}' },
  ]
  expect((await run(steps, says('v4.7\n'))).done!.lines).toEqual(['version: 4.7 at 100'])
})

describe('what is said again and again', () => {
  const again = (more: object = {}) => ({
    do: 'repeat',
    steps: [send('x')],
    everyMs: 100,
    times: 4,
    until: [{ text: 'boot' }],
    ...more,
  })
  it('ends with the word that is awaited', async () => {
    const { written, facts } = await run([again(), send('on')], (bytes, nth) =>
      nth === 1 ? says('boot')(bytes, nth) : [],
    )
    expect(facts).toBeNull()
    expect(written).toEqual(['x', 'x', 'on'])
  })
  it('ends after its times, with how long it was waited', async () => {
    const { written, facts } = await run([again()])
    expect(written).toHaveLength(4)
    expect(facts!.says).toContain('within 400 ms')
  })
  it('ends where it is abandoned', async () => {
    let sent = 0
    const { written, facts } = await run([again()], () => (sent++, []), { raised: () => sent === 2 })
    expect(written).toHaveLength(2)
    expect(facts!.kind).toBe('write-abandoned')
  })
})
