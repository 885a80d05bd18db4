import { describe, expect, it } from 'vitest'
import type { Progress } from '../loader'
import { factsOf } from '../refusal.test-support'
import { bench } from './script-bench.test-support'

/*
 * A unit that prints its memory, and a line that loses some of it. Source of the form: od(1) of POSIX, an address and sixteen
 * bytes a line.
 */

const memory = Uint8Array.from({ length: 0x90 }, (_, at) => (at * 7 + 3) & 255)
const row = (at: number) =>
  `${at.toString(16).padStart(6, '0')}: ${Buffer.from(memory.subarray(at, at + 16))
    .toString('hex')
    .replace(/..(?=.)/g, '$& ')} |\r\n`

/** Prints each dump that is asked for, with what `spoil` leaves of its lines; `beat` is said between them again and again. */
const printing = (asked: string[], spoil: (lines: string[], time: number) => string[], beat?: string) => {
  return async (unit: Parameters<Parameters<typeof bench>[1]>[0]) => {
    for (let heard = ''; ;) {
      const came = await unit.read(4096, beat ? 300 : Infinity)
      if (!came) await unit.write(Buffer.from(beat!))
      heard += Buffer.from(came ?? []).toString()
      for (let end = heard.indexOf('\r'); end >= 0; end = heard.indexOf('\r')) {
        const command = heard.slice(0, end)
        heard = heard.slice(end + 1)
        asked.push(command)
        const [from, length] = command
          .split(' ')
          .slice(1)
          .map((word) => parseInt(word, 16)) as [number, number]
        const lines = Array.from({ length: length / 16 }, (_, index) => row(from + index * 16))
        await unit.write(Buffer.from([...spoil(lines, asked.length), '> '].join('')))
      }
    }
  }
}
const prompt = { do: 'expect', patterns: [{ text: '> ' }], withinMs: 500 }
const steps = [
  { do: 'send', text: 'dump {address:hex} {length:hex}\r' },
  { do: 'dump', line: '{at:hex6}: {row:bytes} |', withinMs: 500 },
  prompt,
]
const whole = { read: { steps } }
const inPieces = { read: { steps: [{ do: 'each', of: 'chunk', bytes: 0x30, steps }] } }
const without =
  (...gone: number[]) =>
  (lines: string[]) =>
    lines.filter((_, index) => !gone.includes(index))
const once =
  (spoil: (lines: string[]) => string[], at = 1) =>
  (lines: string[], time: number) =>
    time === at ? spoil(lines) : lines

interface Form {
  beat?: string
  writeTries?: number
  address?: number
  length?: number
}

async function reading(
  form: object,
  spoil: (lines: string[], time: number) => string[],
  { beat, address = 0, length = memory.length, ...more }: Form = {},
) {
  const asked: string[] = []
  const { loader, end, clock } = await bench(form, printing(asked, spoil, beat), more)
  const told: Progress[] = []
  const read = loader.read!({ address, length }, (progress) => void told.push(progress))
  const facts = await factsOf(read)
  const tookMs = clock.now()
  end()
  return { asked, facts, tookMs, retries: told.at(-1)?.retries, told, bytes: facts ? null : await read }
}

describe('a dump', () => {
  it('is read line by line into its bytes', async () => {
    expect(await reading(whole, (lines) => lines)).toMatchObject({
      asked: ['dump 0 90'],
      bytes: memory,
      retries: 0,
    })
    expect((await reading(inPieces, (lines) => lines)).asked).toEqual([
      'dump 0 30',
      'dump 30 30',
      'dump 60 30',
    ])
  })
  // What follows the gap is let go: the next dump begins with its own first line.
  it.each([
    ['its first line', without(0)],
    ['a line in the middle', without(4)],
    ['two lines', without(2, 6)],
    ['its last line', without(8)],
    ['half a line', (lines: string[]) => lines.map((line, index) => (index === 3 ? line.slice(20) : line))],
    [
      'the end of a line',
      (lines: string[]) => lines.map((line, index) => (index === 3 ? line.slice(0, 20) : line)),
    ],
  ])('that lost %s is read again', async (_what, spoil) => {
    const { asked, bytes, retries } = await reading(whole, once(spoil))
    expect(asked).toEqual(['dump 0 90', 'dump 0 90'])
    expect(bytes).toEqual(memory)
    expect(retries).toBe(1)
  })
  it('in pieces is read again from the piece that lost a line, and no other', async () => {
    const { asked, bytes, retries } = await reading(inPieces, once(without(1), 2))
    expect(asked).toEqual(['dump 0 30', 'dump 30 30', 'dump 30 30', 'dump 60 30'])
    expect(bytes).toEqual(memory)
    expect(retries).toBe(1)
  })
  it.each([
    ['as a whole', whole, 'dump 0 90'],
    ['in pieces', inPieces, 'dump 0 30'],
  ])(
    'read %s is given up after its third try, with the line that was missing',
    async (_how, form, command) => {
      const { asked, facts } = await reading(form, without(1))
      expect(asked).toEqual([command, command, command])
      expect(facts).toMatchObject({ kind: 'dump-gap', expected: '00000010', found: '00000020' })
      expect(facts!.remedy).toMatch(/^It was read again/)
    },
  )
  it('is tried as often as the profile says', async () => {
    expect((await reading(whole, without(1), { writeTries: 5 })).asked).toHaveLength(5)
  })
  it('of a unit that says nothing at all is no dump with a gap', async () => {
    const { asked, facts } = await reading(whole, () => [])
    expect(facts!.kind).toBe('no-answer')
    expect(asked).toHaveLength(1)
  })
  it('is read again in its own time of a unit that never stops talking', async () => {
    const { asked, bytes, tookMs } = await reading(whole, once(without(4)), { beat: 'all is well\r\n' })
    expect(asked).toHaveLength(2)
    expect(bytes).toEqual(memory)
    // Two dumps of nine lines, and half a second after the gap.
    expect(tookMs).toBeLessThan(2000)
  })
  it('is told line by line over all of the range, and piece by piece', async () => {
    const done = async (form: object) =>
      (await reading(form, (lines) => lines, { address: 0x10, length: 0x50 })).told.map((told) => [
        told.done,
        told.total,
      ])
    expect(await done(whole)).toEqual([16, 32, 48, 64, 80].map((each) => [each, 80]))
    expect(await done(inPieces)).toEqual([16, 32, 48, 48, 64, 80, 80].map((each) => [each, 80]))
  })
  it('has lines beside its range where a unit prints whole pages: they are passed over', async () => {
    const page = (lines: string[]) => [row(0), row(0x10), ...lines, row(0x50), row(0x60)]
    const { bytes, asked } = await reading(whole, page, { address: 0x20, length: 0x30 })
    expect(bytes).toEqual(memory.subarray(0x20, 0x50))
    expect(asked).toHaveLength(1)
    const odd = await reading(whole, () => [0x20, 0x30, 0x40].map(row), { address: 0x28, length: 0x20 })
    expect(odd.bytes).toEqual(memory.subarray(0x28, 0x48))
    // The line behind its end is none of it, though the last of its own is missing.
    const { facts } = await reading(whole, (lines) => [...lines.slice(0, -1), row(0x50)], {
      address: 0x20,
      length: 0x30,
    })
    expect(facts).toMatchObject({ kind: 'dump-gap', expected: '00000040', found: 'nothing more' })
  })
  it('may have no addresses: then its bytes stand one after the other', async () => {
    const bare = {
      read: { steps: [steps[0]!, { do: 'dump', line: ': {row:bytes} |', withinMs: 500 }, prompt] },
    }
    expect((await reading(bare, (lines) => lines)).bytes).toEqual(memory)
    // What is missing is missed at the end alone.
    const { bytes, asked } = await reading(bare, once(without(3)))
    expect(bytes).toEqual(memory)
    expect(asked).toHaveLength(2)
  })
})
