import { LinkScript } from '@bench-wake/core/family'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { virtualClock } from '../../kernel'
import type { Port } from '../port'
import { component, settings, turn } from './script-bench.test-support'
import { encodeFrame, frameDialect, scriptDriver } from '.'
import { factsOf } from '../refusal.test-support'

/*
 * A computer that stands still reads an answer long after it came. What was said in time counts, however late it is read; a
 * unit that goes on talking without saying what is awaited does not hold a step for that.
 */

const frame = {
  layout: 'A5 {length:u8} {payload} {checksum:u8}',
  escape: 'none',
  checksum: 'sum8',
  maxPayload: 80,
  tries: 1,
}

/** A script at a port whose first reading is had a minute late. */
function bench(operations: object, ...says: number[][]) {
  const clock = virtualClock(turn)
  let asked = false
  const left = [...says]
  const port: Port = {
    name: 'line',
    settings,
    open: async () => {},
    close: async () => {},
    setLines: async () => {},
    write: async () => void (asked = true),
    async read(_, ms) {
      if (!asked) return null
      if (left.length === 0) {
        await clock.sleep(ms)
        return null
      }
      if (left.length === says.length) await clock.sleep(60_000)
      return Uint8Array.from(left.shift()!)
    },
  }
  const script = v.parse(LinkScript, { speaks: 'script', operations, frame })
  return scriptDriver(port, clock, script, component, settings, (field, value) => [`${field}: ${value}`])
}
const ascii = (text: string) => [...Buffer.from(text, 'ascii')]

const dialect = frameDialect(v.parse(LinkScript.entries.frame.wrapped, frame))
const framed = (...payload: number[]) => [...encodeFrame(dialect, Uint8Array.from(payload), 0)]
const kindOf = async (act: Promise<unknown>) => (await factsOf(act))?.kind ?? 'taken'

describe('what is read a minute late', () => {
  const ask = { attach: { steps: [{ do: 'frame', bytes: '10', answer: [{ bytes: '90' }], withinMs: 100 }] } }
  it('is taken where it is a whole frame', async () => {
    expect(await kindOf(bench(ask, framed(0x90)).run('attach'))).toBe('taken')
    expect(await kindOf(bench(ask, [0, 1, 2, ...framed(0x90)]).run('attach'))).toBe('taken')
  })
  it('is none where it is a part of one, or another', async () => {
    expect(await kindOf(bench(ask, framed(0x90).slice(0, -1)).run('attach'))).toBe('no-answer')
    expect(await kindOf(bench(ask, framed(0x91)).run('attach'))).toBe('unit-refused')
  })
  it('is none where the unit goes on talking and never says it', async () => {
    const talk = Array.from({ length: 50 }, () => [0, 1, 2])
    expect(await kindOf(bench(ask, ...talk, framed(0x90)).run('attach'))).toBe('no-answer')
  })
  const expecting = {
    attach: {
      steps: [
        { do: 'send', text: 'v\r' },
        { do: 'expect', patterns: [{ text: 'ok' }], withinMs: 100 },
      ],
    },
  }
  it('is taken where it is the text that is awaited, and not where it goes on without', async () => {
    expect(await kindOf(bench(expecting, ascii('well: ok')).run('attach'))).toBe('taken')
    const talk = Array.from({ length: 50 }, () => ascii('wait '))
    expect(await kindOf(bench(expecting, ...talk, ascii('ok')).run('attach'))).toBe('no-answer')
  })
  it('is taken as plain bytes, all of them', async () => {
    const read = {
      read: {
        steps: [
          { do: 'send', text: 'r\r' },
          { do: 'transfer', by: 'plain', withinMs: 100 },
        ],
      },
    }
    const into = new Uint8Array(4)
    const range = { address: 0, length: 4 }
    expect(await kindOf(bench(read, [1, 2], [3, 4]).run('read', { range, into }))).toBe('taken')
    expect([...into]).toEqual([1, 2, 3, 4])
    expect(await kindOf(bench(read, [1, 2]).run('read', { range, into }))).toBe('no-answer')
  })
})
