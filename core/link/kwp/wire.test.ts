import { describe, expect, it } from 'vitest'
import { virtualClock, type Problem } from '../../kernel'
import type { Port, SerialSettings } from '../port'
import { decodeKwp, encodeKwp, kwpLength, kwpTransport, type KwpForm } from '.'
import { kwpRows } from './trace-rows'

/*
 * The single wire byte by byte, from messages written out by ISO 14230-2, clause 4: format, target, source, perhaps a length, data,
 * and the sum of all; table 6: 20 ms between the unit's bytes at the most, 5 ms and more between the tester's; clause 5.2.4: five
 * baud, 55, two key bytes, the complement of the second, the complement of the address. Clause numbers from memory.
 */

const turn = () => new Promise<void>((done) => setImmediate(done))
const settings: SerialSettings = { baudRate: 10_400, dataBits: 8, parity: 'none', stopBits: 1 }
const bytes = (text: string) => Uint8Array.from(text.split(' ').filter(Boolean), (pair) => parseInt(pair, 16))
const hex = (list: Uint8Array) => [...list].map((byte) => byte.toString(16).padStart(2, '0')).join(' ')
const factsOf = (act: Promise<unknown>) =>
  act.then(
    (value) => ({ kind: 'taken', value }),
    (error: unknown) => (error as Problem).facts,
  )

/** What comes over the wire: bytes, and pauses in ms. */
type Comes = (string | number)[]
function wire(
  comes: Comes,
  form: Partial<KwpForm> = {},
  carries: (sent: Uint8Array) => Uint8Array | null = (sent) => sent,
) {
  const clock = virtualClock(turn)
  const sent: { at: number; text: string }[] = []
  const heard: number[] = []
  let left = [...comes]
  const port: Port = {
    name: 'wire',
    settings,
    open: async () => {},
    close: async () => {},
    setLines: async () => {},
    async write(own) {
      sent.push({ at: clock.now(), text: hex(own) })
      heard.push(...(carries(own) ?? []))
    },
    async read(max, ms) {
      const until = clock.now() + ms
      while (heard.length === 0) {
        const next = left[0]
        if (next === undefined) {
          await clock.sleep(Math.max(0, until - clock.now()))
          return null
        }
        if (typeof next === 'string') heard.push(...bytes(next))
        else {
          const wait = Math.min(next, until - clock.now())
          if (wait > 0) await clock.sleep(wait)
          if (wait < next) {
            left[0] = next - Math.max(0, wait)
            return null
          }
        }
        left = left.slice(1)
      }
      return Uint8Array.from(heard.splice(0, max))
    },
  }
  const transport = kwpTransport(port, clock, { target: 0x11, source: 0xf1, wake: 'fast', ...form })
  return { clock, sent, transport }
}
/** From the controller to us, with its sum: 82 F1 11 7E 00. */
const answer = '82 f1 11 7e 00 02'

describe('a message from the wire', () => {
  const take = async (comes: Comes, ms = 100) => factsOf(wire(comes).transport.receive(ms))
  it('is what is addressed to us by the controller that we speak with', async () => {
    expect(await take([answer])).toMatchObject({ value: bytes('7e 00') })
    // Without addresses there is one alone on the line: 02 7E 00, sum 80.
    expect(await take(['02 7e 00 80'])).toMatchObject({ value: bytes('7e 00') })
  })
  it('of another controller, or to another tester, is passed over', async () => {
    const others = ['82 f1 12 7e 01 04', '82 f2 11 7e 01 04']
    expect(await take([...others, answer])).toMatchObject({ value: bytes('7e 00') })
    for (const other of others) expect(await take([other])).toMatchObject({ value: null })
  })
  it('of others without end does not hold us', async () => {
    const made = wire(Array.from({ length: 99 }, () => ['82 f1 12 7e 01 04', 10]).flat())
    expect(await made.transport.receive(100)).toBeNull()
    expect(made.clock.now()).toBeLessThanOrEqual(110)
  })
  it('may come byte by byte, no further apart than 20 ms and a little', async () => {
    const apart = (ms: number) =>
      bytes(answer).reduce<Comes>((all, byte) => [...all, byte.toString(16), ms], [])
    expect(await take(apart(20))).toMatchObject({ value: bytes('7e 00') })
    expect(await take(apart(25))).toMatchObject({ value: bytes('7e 00') })
    expect(await take(apart(27))).toMatchObject({
      kind: 'kwp-frame',
      says: 'the message broke off',
      found: '1 bytes',
    })
  })
  it('that breaks off, or whose sum does not hold, is none', async () => {
    expect(await take(['82 f1 11 7e'])).toMatchObject({
      kind: 'kwp-frame',
      says: 'the message broke off',
      found: '4 bytes',
    })
    expect(await take(['82 f1 11 7e 00 03'])).toMatchObject({
      kind: 'kwp-frame',
      says: 'the sum does not hold',
    })
    // C0: to a group of controllers.
    expect(await take(['c2 f1 11 7e 00 42'])).toMatchObject({
      kind: 'kwp-frame',
      says: 'the message is not addressed to one unit',
    })
  })
  it('that does not come is silence, at its time', async () => {
    const made = wire([])
    expect(await made.transport.receive(80)).toBeNull()
    expect(made.clock.now()).toBe(80)
  })
})

describe('a message onto the wire', () => {
  it('goes out byte by byte, 5 ms apart, and is heard back', async () => {
    const { transport, sent } = wire([])
    await transport.send(bytes('3e 01'))
    expect(sent.map(({ text }) => text).join(' ')).toBe('82 11 f1 3e 01 c3')
    for (let at = 1; at < sent.length; at++) expect(sent[at]!.at - sent[at - 1]!.at).toBeGreaterThanOrEqual(5)
  })
  it('rests behind what was heard', async () => {
    const { transport, clock, sent } = wire([answer])
    await transport.receive(50)
    const heardAt = clock.now()
    await transport.send(bytes('3e 01'))
    // P3: 55 ms at the least between an answer and the next request.
    expect(sent[0]!.at - heardAt).toBeGreaterThanOrEqual(55)
    await wire([]).transport.send(bytes('3e 01'))
  })
  it('that comes back otherwise, or not at all, is told apart', async () => {
    const turned = wire([], {}, (own) => own.map((byte) => byte ^ 1))
    expect(await factsOf(turned.transport.send(bytes('3e 01')))).toMatchObject({
      kind: 'kwp-echo',
      says: 'somebody else speaks on the line',
      remedy: 'Unplug every other tester.',
    })
    const dead = wire([], {}, () => null)
    expect(await factsOf(dead.transport.send(bytes('3e 01')))).toMatchObject({
      kind: 'kwp-echo',
      says: 'the line does not carry our own bytes back',
    })
  })
  it('is in the shape that the profile says', async () => {
    const text = async (form: Partial<KwpForm>) => {
      const { transport, sent } = wire([], form)
      await transport.send(bytes('3e 01'))
      return sent.map((each) => each.text).join(' ')
    }
    expect(await text({ shape: { addresses: false, length: 'format' } })).toBe('02 3e 01 41')
    expect(await text({ shape: { addresses: true, length: 'byte' } })).toBe('80 11 f1 02 3e 01 c3')
    expect(await text({ shape: { addresses: false, length: 'byte' } })).toBe('00 02 3e 01 41')
  })
  it('holds 255 bytes, or 63 where the format alone tells its length', () => {
    expect(wire([]).transport.longest!()).toBe(255)
    expect(wire([], { shape: { addresses: true, length: 'format' } }).transport.longest!()).toBe(63)
    const format = { addresses: true, length: 'format' } as const
    expect(() => encodeKwp({ data: new Uint8Array(64) }, format)).toThrow('64 bytes fit no message')
    expect(encodeKwp({ data: new Uint8Array(63) }, format)).toHaveLength(67)
    expect(() => encodeKwp({ data: new Uint8Array(256) })).toThrow(RangeError)
    expect(encodeKwp({ data: new Uint8Array(255) })).toHaveLength(4 + 255 + 1)
    expect(() => encodeKwp({ data: new Uint8Array(0) })).toThrow(RangeError)
    // From 64 bytes on the length has a byte of its own.
    expect(hex(encodeKwp({ target: 1, source: 2, data: new Uint8Array(64) }).subarray(0, 4))).toBe(
      '80 01 02 40',
    )
    expect(hex(encodeKwp({ target: 1, source: 2, data: new Uint8Array(63) }).subarray(0, 3))).toBe('bf 01 02')
  })
})

describe('waking at five baud', () => {
  // E9: addresses, length in the format byte, usual times; its parity is odd.
  const keys = 'e9 8f'
  const wakes = async (
    comes: Comes,
    form: Partial<KwpForm> = {},
    carries?: (sent: Uint8Array) => Uint8Array | null,
  ) => {
    const made = wire(comes, { wake: 'five-baud', timing: 'standard', ...form }, carries)
    return { ...made, facts: await factsOf(made.transport.wake()) }
  }
  const taken = { kind: 'taken' }
  const noWake = (found: string) => ({ kind: 'kwp-no-wake', found })

  it('answers the second key byte with its complement, and is confirmed by that of the address', async () => {
    const { facts, sent, transport } = await wakes([60, '55', 5, keys, 30, 'ee'])
    expect(facts).toMatchObject(taken)
    expect(sent.map(({ text }) => text)).toEqual(['70'])
    // By the standard's times, in the shape that the keys say.
    await transport.send(bytes('3e 01'))
    expect(sent.map(({ text }) => text)).toEqual(['70', '82', '11', 'f1', '3e', '01', 'c3'])
    expect(transport.longest!()).toBe(63)
  })
  it.each<[string, Comes, object]>([
    ['the first word after 300 ms', [300, '55', 5, keys, 30, 'ee'], taken],
    ['the first word later', [302, '55', 5, keys, 30, 'ee'], noWake('silence')],
    ['another first word', [60, '54', 5, keys, 30, 'ee'], noWake('0x54')],
    ['keys within their time', [60, '55', 51, keys, 30, 'ee'], taken],
    ['keys that come later', [60, '55', 53, keys, 30, 'ee'], noWake('no key bytes')],
    ['one key alone', [60, '55', 5, 'e9'], noWake('no key bytes')],
    ['a confirmation within its time', [60, '55', 5, keys, 101, 'ee'], taken],
    ['a confirmation later', [60, '55', 5, keys, 103, 'ee'], noWake('it did not confirm')],
    ['a confirmation of another address', [60, '55', 5, keys, 30, 'ed'], noWake('it did not confirm')],
  ])('%s', async (_, comes, told) => {
    expect((await wakes(comes)).facts).toMatchObject(told)
  })
  it('whose answer is turned on the way was not confirmed', async () => {
    const { facts } = await wakes([60, '55', 5, keys, 30, 'ee'], {}, (own) => own.map((byte) => byte ^ 1))
    expect(facts).toMatchObject(noWake('it did not confirm'))
  })
  it('that says it is slow is given a second twice over to begin its answer', async () => {
    const late = async (first: string) => {
      const { transport, facts } = await wakes([60, '55', 5, `${first} 8f`, 30, 'ee', 1900, answer])
      expect(facts).toMatchObject(taken)
      return transport.receive(50)
    }
    expect(await late('d9')).toEqual(bytes('7e 00'))
    expect(await late('e9')).toBeNull()
  })
})

describe('waking by the fast pattern', () => {
  /** From the controller to us: its start, with keys that say addresses and length in the format byte. */
  const started = hex(encodeKwp({ target: 0xf1, source: 0x11, data: bytes('c1 e9 8f') }))
  const says = (data: string) => hex(encodeKwp({ target: 0xf1, source: 0x11, data: bytes(data) }))
  const wakes = async (comes: Comes, form: Partial<KwpForm> = {}) => {
    const made = wire(comes, form)
    return { ...made, facts: await factsOf(made.transport.wake()) }
  }
  it.each<[string, Comes, string]>([
    ['refuses to start', [30, says('7f 81 10')], 'a refusal'],
    ['answers something else', [30, says('7e 00')], 'another answer'],
    ['says nothing', [], 'silence'],
    ['breaks off', [30, started.slice(0, 8)], 'noise'],
  ])('one that %s does not wake', async (_, comes, found) => {
    expect((await wakes(comes)).facts).toMatchObject({ kind: 'kwp-no-wake', found })
  })
  it('is asked for the quickest times; one that keeps its own is spoken to by the standard’s', async () => {
    const sentAfter = async (agrees: string, form: Partial<KwpForm> = {}) => {
      const { sent, transport, facts, clock } = await wakes([30, started, 30, says(agrees)], form)
      expect(facts).toEqual({ kind: 'taken', value: undefined })
      const before = sent.length
      const from = clock.now()
      await transport.send(bytes('3e 01'))
      return { asked: sent.slice(0, before), own: sent.slice(before), from }
    }
    const quick = await sentAfter('c3 03 00 02 00 14 00')
    expect(quick.asked.map(({ text }) => text).join(' ')).toBe(
      '81 11 f1 81 04 87 11 f1 83 03 00 02 00 14 00 25',
    )
    // At once, in one go.
    expect(quick.own).toEqual([{ at: quick.from, text: '82 11 f1 3e 01 c3' }])
    const slow = await sentAfter('7f 83 12')
    expect(slow.own.map(({ text }) => text)).toEqual(['82', '11', 'f1', '3e', '01', 'c3'])
    const own = await sentAfter('c3', { timing: 'standard' })
    expect(own.asked.map(({ text }) => text).join(' ')).toBe('81 11 f1 81 04')
    expect(own.own).toHaveLength(6)
  })
})

describe('the length of a message', () => {
  it.each<[string, number | null]>([
    ['', null],
    ['02', 4],
    ['82', 6],
    ['c2', 6],
    ['00', null],
    ['00 05', 8],
    ['80', null],
    ['80 11 f1', null],
    ['80 11 f1 05', 10],
  ])('%s: %j', (start, length) => {
    expect(kwpLength(bytes(start))).toBe(length)
  })
  it('one too short or too long is no whole message', () => {
    for (const text of ['', '82 f1 11 7e 02', `${answer} 00`, '80 f1 11', '00 00 00'])
      expect(() => decodeKwp(bytes(text)), text).toThrow('this is no whole message')
  })
})

describe('the wire in a trace', () => {
  const read = (...events: [at: number, direction: 'out' | 'in', text: string][]) => {
    const reader = kwpRows()
    return events.flatMap(([at, direction, text]) => reader({ at, direction, bytes: bytes(text) }))
  }
  const ask = '82 11 f1 3e 01 c3'
  it('has a row for each message; our own echo is none', () => {
    const rows = read([1, 'out', ask], [2, 'in', ask], [3, 'in', answer])
    expect(rows.map(({ at, direction }) => [at, direction])).toEqual([
      [1, 'out'],
      [3, 'in'],
    ])
    for (const { says, wrong } of rows) expect([says.length > 3, wrong ?? false]).toEqual([true, false])
    // Echo and answer in one piece are told apart as well.
    expect(read([1, 'out', ask], [2, 'in', `${ask} ${answer}`])).toHaveLength(2)
  })
  it('puts a message together from its bytes, at the time of the first', () => {
    const single = ask.split(' ').flatMap((byte, at): [number, 'out' | 'in', string][] => [
      [at * 5, 'out', byte],
      [at * 5 + 1, 'in', byte],
    ])
    const rows = read(...single, [90, 'in', answer.slice(0, 8)], [95, 'in', answer.slice(9)])
    expect(rows.map(({ at, direction }) => [at, direction])).toEqual([
      [0, 'out'],
      [95, 'in'],
    ])
    expect(rows[0]!.bytes.replace(/\s/g, '').toLowerCase()).toContain('3e01')
  })
  it.each([
    ['81 11 f1 81 04', 'out', 'start communication'],
    ['83 f1 11 c1 ef 8f c4', 'in', 'start communication, done'],
    ['81 11 f1 82 05', 'out', 'stop communication'],
    ['81 f1 11 c2 45', 'in', 'stop communication, done'],
    ['87 11 f1 83 03 00 02 00 14 00 25', 'out', 'access timing'],
    ['82 f1 11 c3 03 4a', 'in', 'access timing, done'],
  ] as const)('%s: %s, %s', (text, direction, says) => {
    const [row] = read([0, direction, text])
    expect(row).toMatchObject({ direction, says })
    expect(row!.wrong).toBeUndefined()
  })
  it('marks what does not hold, with its bytes', () => {
    const [row] = read([7, 'in', '82 f1 11 7e 00 03'])
    expect(row).toMatchObject({ at: 7, direction: 'in', wrong: true, says: 'the sum does not hold' })
    expect(row!.bytes.replace(/\s/g, '').toLowerCase()).toBe('82f1117e0003')
  })
  it('tells the greeting at five baud byte by byte, and a message behind it as one', () => {
    const rows = read(
      [0, 'in', '55 ef 8f'],
      [30, 'out', '70'],
      [31, 'in', '70'],
      [60, 'in', 'ee'],
      [90, 'out', ask],
      [91, 'in', `${ask} ${answer}`],
    )
    expect(rows.slice(0, 5).map(({ says }) => says)).toEqual([
      '55, the controller woke',
      'key byte',
      'key byte',
      'complement of the second key byte',
      'complement of the address',
    ])
    expect(rows.slice(5).map(({ direction }) => direction)).toEqual(['out', 'in'])
  })
})
