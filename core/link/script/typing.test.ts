import { describe, expect, it } from 'vitest'
import { asciiBytes, asciiText } from '../../kernel'
import type { Port } from '../port'
import { factsOf } from '../refusal.test-support'
import { awaits, bench } from './script-bench.test-support'

/* Consoles without a buffer (common practice): they take one character at a time, and show each that they took. */

const steps = (send: object) => ({
  attach: {
    steps: [
      { do: 'send', ...('bytes' in send ? {} : { text: 'ver\r' }), ...send },
      awaits([{ text: '> ' }], 300),
    ],
  },
})
/** A console that takes one character, and says to it what it says. */
async function typed(send: object, says: (letter: string, nth: number) => string) {
  const heard: [letter: string, at: number][] = []
  const now = { ms: () => 0 }
  const made = await bench(steps(send), async (unit: Port) => {
    for (;;) {
      const bytes = await unit.read(64, Infinity)
      if (!bytes) return
      heard.push([asciiText(bytes), now.ms()])
      const answer = says(asciiText(bytes), heard.length - 1)
      if (answer !== '') await unit.write(asciiBytes(answer))
    }
  })
  now.ms = () => made.clock.now()
  const facts = await factsOf(made.driver.run('attach'))
  made.end()
  return { heard, facts, took: made.clock.now() }
}
const shows = (letter: string) => (letter === '\r' ? '\r\n> ' : letter)

describe('a text that is typed', () => {
  it('goes out as one where nothing else is said', async () => {
    const { heard, facts } = await typed({}, () => '> ')
    expect([heard.map(([letter]) => letter), facts]).toEqual([['ver\r'], null])
  })
  it('goes out a character at a time, each once the one before it was shown', async () => {
    const { heard, facts } = await typed({ echoWithinMs: 50 }, shows)
    expect([heard.map(([letter]) => letter), facts]).toEqual([['v', 'e', 'r', '\r'], null])
  })
  it('passes over what is said beside it, and keeps what came behind the last one shown', async () => {
    const { heard, facts } = await typed({ echoWithinMs: 50 }, (letter) => `*${shows(letter)}`)
    expect([heard.length, facts]).toEqual([4, null])
  })
  it('ends at the character that is not shown, within its time', async () => {
    const { heard, facts, took } = await typed({ echoWithinMs: 50 }, (letter) =>
      letter === 'e' ? '?' : letter,
    )
    expect(heard.map(([letter]) => letter)).toEqual(['v', 'e'])
    expect(facts).toMatchObject({ kind: 'no-answer', expected: 'the echo of "e"', place: { at: 'attach.0' } })
    expect(took).toBeGreaterThanOrEqual(50)
    expect(took).toBeLessThan(60)
  })
  it('rests behind each character for as long as is said', async () => {
    const { heard, facts } = await typed({ characterPauseMs: 20 }, (letter) => (letter === '\r' ? '> ' : ''))
    expect(facts).toBeNull()
    const times = heard.map(([, at]) => at)
    expect(heard.map(([letter]) => letter).join('')).toBe('ver\r')
    // A character itself takes less than a tenth of a millisecond at this speed.
    for (const [index, at] of times.slice(1).entries()) {
      expect(at - times[index]!).toBeGreaterThanOrEqual(20)
      expect(at - times[index]!).toBeLessThan(21)
    }
  })
  it('of bytes does the same', async () => {
    const { heard } = await typed({ bytes: '41 42', echoWithinMs: 50 }, (letter) =>
      letter === 'B' ? 'B> ' : letter,
    )
    expect(heard.map(([letter]) => letter)).toEqual(['A', 'B'])
  })
})
