import { describe, expect, it } from 'vitest'
import { factsOf } from '../refusal.test-support'
import type { TimedAnswer, TimedUnit } from '../timed-port.test-support'
import { atHand, bytes } from './script-bench.test-support'

/* One exchange of frames, byte by byte: RFC 1055 (C0 ends, DB DC and DB DD stand for C0 and DB), RFC 1662 (7E, 7D and bit 6). */

const own = {
  layout: 'A5 {length:u8} {payload} {checksum:u8}',
  escape: 'none',
  checksum: 'sum8',
  maxPayload: 8,
}
const slip = { layout: '{payload}', escape: 'slip', maxPayload: 8 }
const hdlc = { ...slip, escape: 'hdlc' }
/** A frame of the first form, its sum over what stands before it. */
const framed = (payload: string) => {
  const data = [0xa5, payload.length / 2, ...bytes(payload)]
  return [...data, data.reduce((total, byte) => total + byte, 0) & 255]
}
const at = (...parts: [number, number[]][]): TimedAnswer => parts
const say =
  (...all: number[][]): TimedUnit =>
  (_, nth) =>
    all[nth] ? [[1, all[nth]]] : []
const ask = (payload: string, ...answer: object[]) => ({ do: 'frame', bytes: payload, answer, withinMs: 100 })
const yes = { bytes: '06 {data:bytes}' }

async function run(frame: object, steps: object[], unit: TimedUnit, reads = 0) {
  const { clock, driver, written } = atHand({ read: { steps } }, unit, { more: { frame } })
  const into = new Uint8Array(reads)
  const did = driver.run('read', { range: { address: 0, length: reads }, into })
  const facts = await factsOf(did)
  return { facts, written, into: [...into], retries: facts ? null : (await did).retries, tookMs: clock.now() }
}

describe('a frame with a length', () => {
  it('is found behind noise, and gives its bytes', async () => {
    const { into, written, facts } = await run(
      own,
      [ask('10', yes)],
      say([0x00, 0xa5, ...framed('0601a502')]),
      3,
    )
    expect(facts).toBeNull()
    expect(written).toEqual([framed('10')])
    expect(into).toEqual([0x01, 0xa5, 0x02])
  })
  it('may come in parts, and another behind it is the next step’s', async () => {
    const [first, second] = [framed('0601'), framed('0602')]
    const unit: TimedUnit = (_, nth) =>
      nth === 0 ? at([10, first.slice(0, 2)], [60, [...first.slice(2), ...second]]) : []
    const { facts } = await run(
      own,
      [ask('10', yes), { do: 'expect', patterns: [{ bytes: 'A5 02 06 02' }], withinMs: 50 }],
      unit,
      1,
    )
    expect(facts).toBeNull()
  })
  it('that is longer than any is none', async () => {
    const { facts, written } = await run(
      { ...own, tries: 1 },
      [ask('10', yes)],
      say([0xa5, 9, ...Array<number>(10).fill(6)]),
      1,
    )
    expect(facts!.kind).toBe('no-answer')
    expect(written).toHaveLength(1)
  })
  it('with a wrong sum is asked for again, as often as the dialect says', async () => {
    const wrong = [...framed('0601').slice(0, -1), 0]
    const mended = await run(own, [ask('10', yes)], say(wrong, framed('0601')), 1)
    expect([mended.written.length, mended.retries, mended.into]).toEqual([2, 1, [1]])
    const times = async (more: object) => {
      const { facts, written } = await run({ ...own, ...more }, [ask('10', yes)], () => [[1, wrong]], 1)
      expect(facts!.kind).toBe('frame-broken')
      return written.length
    }
    expect([await times({}), await times({ tries: 1 }), await times({ tries: 5 })]).toEqual([3, 1, 5])
  })
})

describe('a frame between marks', () => {
  it.each([
    [
      'RFC 1055',
      slip,
      [0xc0, 0xdb, 0xdc, 0xdb, 0xdd, 0xc0],
      [0xc0, 0x06, 0xdb, 0xdd, 0xdb, 0xdc, 0xc0],
      [0xdb, 0xc0],
    ],
    ['RFC 1662', hdlc, [0x7e, 0xc0, 0xdb, 0x7e], [0x7e, 0x06, 0x7d, 0x5e, 0x7d, 0x5d, 0x7e], [0x7e, 0x7d]],
  ])('goes out and comes in as %s has it', async (_source, form, out, back, data) => {
    const { written, into } = await run(form, [ask('C0 DB', yes)], say(back), 2)
    expect(written).toEqual([out])
    expect(into).toEqual(data)
  })
  it('may have one mark between two, or several', async () => {
    const { facts, into } = await run(slip, [ask('10', yes)], say([0xc0, 0xc0, 0xc0, 0x06, 0x07, 0xc0]), 1)
    expect([facts, into]).toEqual([null, [7]])
  })
  it('that breaks off within a sign is asked for again', async () => {
    const broken = await run({ ...slip, tries: 1 }, [ask('10', yes)], say([0xc0, 0x06, 0xdb, 0xc0]), 1)
    expect(broken.facts).toMatchObject({
      kind: 'frame-broken',
      says: expect.stringContaining('stands before nothing'),
    })
    const { written, into } = await run(
      slip,
      [ask('10', yes)],
      say([0xc0, 0x06, 0xdb, 0xc0], [0xc0, 0x06, 0x09, 0xc0]),
      1,
    )
    expect([written.length, into]).toEqual([2, [9]])
  })
  it('may have each of its bytes stuffed, and no more than that is kept of talk without an end', async () => {
    const stuffed = Array<number[]>(7).fill([0xdb, 0xdc]).flat()
    expect((await run(slip, [ask('10', yes)], say([0xc0, 0x06, ...stuffed, 0xc0]), 7)).into).toEqual(
      Array(7).fill(0xc0),
    )
    const talk = await run(
      { ...slip, tries: 1 },
      [ask('10', yes)],
      say([0x06, ...Array<number>(5000).fill(1), 0xc0]),
      1,
    )
    expect(talk.facts!.kind).toBe('frame-broken')
  })
})

describe('a line that gives back what is sent on it', () => {
  it('is not answered by that, but by the next frame', async () => {
    const both = [...framed('10'), ...framed('0605')]
    expect((await run({ ...own, echo: true }, [ask('10', yes)], say(both), 1)).into).toEqual([5])
    const marked = [0xc0, 0x10, 0xc0, 0x06, 0x05, 0xc0]
    expect((await run({ ...slip, echo: true }, [ask('10', yes)], say(marked), 1)).into).toEqual([5])
    // Without an echo in the dialect it is an answer, and a wrong one.
    expect((await run({ ...own, tries: 1 }, [ask('10', yes)], say(both), 1)).facts!.kind).toBe('unit-refused')
  })
  it('may stay silent: an answer that is none of ours is taken at once', async () => {
    expect((await run({ ...own, echo: true }, [ask('10', yes)], say(framed('0605')), 1)).into).toEqual([5])
  })
  it('has its echo passed over once: a unit may answer with the same', async () => {
    const twice = [...framed('10'), ...framed('10')]
    expect((await run({ ...own, echo: true }, [ask('10', { bytes: '10' })], say(twice))).facts).toBeNull()
  })
})

describe('what a frame says', () => {
  const answers = [
    yes,
    { bytes: '15 {reason:u8}', means: 'refused' },
    { bytes: '16', means: 'again' },
    { bytes: '17', means: 'refused' },
  ]
  it('may be a refusal, with its reason where it gives one, and is then not asked again', async () => {
    const refused = async (payload: string) => {
      const { facts, written } = await run(own, [ask('10', ...answers)], say(framed(payload)), 1)
      expect(written).toHaveLength(1)
      return [facts!.kind, facts!.found]
    }
    expect(await refused('1507')).toEqual(['unit-refused', '7'])
    expect((await refused('17'))[0]).toBe('unit-refused')
    // What no pattern knows is none that goes on.
    expect((await refused('99'))[0]).toBe('unit-refused')
  })
  it('may be for now: the same goes out again', async () => {
    const { written, into, retries } = await run(
      own,
      [ask('10', ...answers)],
      say(framed('16'), framed('0604')),
      1,
    )
    expect([written.length, into, retries]).toEqual([2, [4], 1])
  })
  it('is nothing where nothing comes: it is asked again, a late answer waited for each time but the last', async () => {
    const { facts, written, tookMs } = await run(own, [ask('10', yes)], () => [], 1)
    expect(facts!.kind).toBe('no-answer')
    expect([written.length, tookMs]).toEqual([3, 100 + 100 + 100 + 100 + 100])
  })
  it('is not asked for where what lies there was said before', async () => {
    const attach = { steps: [ask('10', yes)] }
    const more = { frame: { ...own, tries: 1 } }
    const { driver } = atHand({ attach }, () => [], { more, first: [[0, framed('0601')]] })
    expect((await factsOf(driver.run('attach')))!.kind).toBe('no-answer')
  })
})
