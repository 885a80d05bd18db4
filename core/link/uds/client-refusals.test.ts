import { describe, expect, it, vi } from 'vitest'
import { virtualClock } from '../../kernel'
import type { Transport } from '../isotp'
import { olderClient } from '../kwp/services'
import { askUds, udsClient, udsRange, type UdsForm } from './client'
import { factsOf } from '../refusal.test-support'

/*
 * Answers that are none. Sources: ISO 14229-1 (what an answer repeats, 9.4 a seed, 11.3 fault codes, 14.2 the length of a block;
 * annex A codes), ISO 14230-3 for the older services; clause numbers from memory.
 */

const turn = () => new Promise<void>((done) => setImmediate(done))
const bytes = (text: string) =>
  Uint8Array.from(text === '' ? [] : text.split(' ').map((each) => Number.parseInt(each, 16)))

/** A controller that says so to each request, in turn; the last for ever. '' is silence. */
function controller(...says: string[]) {
  const clock = virtualClock(turn)
  const asked: string[] = []
  const left = [...says]
  const heard: Uint8Array[] = []
  const transport: Transport = {
    name: 'controller',
    clear: async () => {},
    async send(message) {
      asked.push([...message].map((byte) => byte.toString(16).padStart(2, '0')).join(' '))
      const next = left.length > 1 ? left.shift()! : left[0]!
      heard.push(...next.split(' | ').filter(Boolean).map(bytes))
    },
    async receive(timeoutMs) {
      const next = heard.shift()
      if (next) return next
      await clock.sleep(timeoutMs)
      return null
    },
  }
  return { clock, asked, transport }
}
const newer = (form: UdsForm, ...says: string[]) => {
  const made = controller(...says)
  return { ...made, unit: udsClient(made.transport, made.clock, undefined, form) }
}
const older = (...says: string[]) => {
  const made = controller(...says)
  return { ...made, unit: olderClient(made.transport, made.clock) }
}
const odd = { kind: 'uds-answer', says: 'the answer is not to what was asked' }

describe('a seed', () => {
  const keyOf = vi.fn(() => bytes('aa bb'))
  it.each([
    ['newer', newer({}, '67 01').unit],
    ['older', older('67 01').unit],
  ])('that is not there opens nothing: %s', async (_, unit) => {
    expect(await factsOf(unit.unlock(1, keyOf))).toMatchObject({ kind: 'uds-answer', place: { at: 'seed' } })
    expect(keyOf).not.toHaveBeenCalled()
  })
  it.each([
    ['newer', newer({}, '67 01 00 00')],
    ['older', older('67 01 00 00')],
  ])('of zeros says that it is open, and no key is sent: %s', async (_, { unit, asked }) => {
    await unit.unlock(1, keyOf)
    expect(asked).toEqual(['27 01'])
    expect(keyOf).not.toHaveBeenCalled()
  })
  it('of another level is none; a key that is taken for another level opened nothing', async () => {
    expect(await factsOf(newer({}, '67 03 12 34').unit.unlock(1, keyOf))).toMatchObject({
      ...odd,
      place: { at: 'seed' },
    })
    expect(await factsOf(newer({}, '67 01 12 34', '67 04').unit.unlock(1, keyOf))).toMatchObject({
      ...odd,
      place: { at: 'key' },
    })
    expect(await factsOf(older('67 01 12 34', '67 04').unit.unlock(1, keyOf))).toMatchObject(odd)
    expect(await factsOf(newer({}, '67 01 12 34', '7f 27 35').unit.unlock(1, keyOf))).toMatchObject({
      kind: 'uds-refused',
    })
  })
  it('one bit in it is a seed', async () => {
    const { unit, asked } = newer({}, '67 01 00 01', '67 02')
    await unit.unlock(1, keyOf)
    expect(asked).toEqual(['27 01', '27 02 aa bb'])
  })
})

describe('data', () => {
  it.each([
    ['newer', (says: string) => newer({}, says).unit],
    ['older', (says: string) => older(says).unit],
  ])('of another identifier is refused, whichever of its bytes differs: %s', async (_, unit) => {
    expect([...(await unit('62 f1 90 31 32').readData(0xf190))]).toEqual([0x31, 0x32])
    expect(await factsOf(unit('62 f1 91 31 32').readData(0xf190))).toMatchObject(odd)
    expect(await factsOf(unit('62 f2 90 31 32').readData(0xf190))).toMatchObject(odd)
    expect(await factsOf(unit('62').readData(0xf190))).toMatchObject(odd)
    expect(await factsOf(unit('6e f1 90').writeData(0xf190, bytes('01')))).toBeNull()
    expect(await factsOf(unit('6e f1 91').writeData(0xf190, bytes('01')))).toMatchObject(odd)
    expect(await factsOf(unit('6e f2 90').writeData(0xf190, bytes('01')))).toMatchObject(odd)
  })
  it('a session, a reset, a routine or a block of another number is none', async () => {
    expect(await factsOf(newer({}, '50 03').unit.session(2))).toMatchObject(odd)
    expect(await factsOf(newer({}, '51 03').unit.reset(1))).toMatchObject(odd)
    expect(await factsOf(newer({}, '71 01 ff 01').unit.startRoutine(0xff00))).toMatchObject(odd)
    expect(await factsOf(newer({}, '71 02 ff 00').unit.startRoutine(0xff00))).toMatchObject(odd)
    expect(await factsOf(newer({}, '71 01').unit.startRoutine(0xff00))).toMatchObject(odd)
    expect(await factsOf(newer({}, '76 02').unit.transfer(1))).toMatchObject(odd)
    expect(await factsOf(newer({}, '7e 01').unit.testerPresent())).toMatchObject(odd)
    expect(await factsOf(older('50 03').unit.session(2))).toMatchObject(odd)
    expect(await factsOf(older('71 05').unit.startRoutine(4))).toMatchObject(odd)
  })
})

describe('the length of a block', () => {
  const announced = (says: string) => newer({}, says).unit.requestDownload(0x8000, 0x100)
  it('is as many bytes as its head says', async () => {
    expect(await announced('74 10 ff')).toBe(255)
    expect(await announced('74 20 01 02')).toBe(0x102)
    expect(await announced('74 20 01 02 55')).toBe(0x102)
    // Two bytes of head and one of data are the least that carries anything.
    expect(await announced('74 10 03')).toBe(3)
  })
  it.each(['74', '74 00', '74 20 01', '74 10 02', '74 20 00 00'])('%s does not say it', async (says) => {
    expect(await factsOf(announced(says))).toMatchObject({
      kind: 'uds-answer',
      expected: 'the length of a block',
    })
  })
  it('goes out with address and length in the widths of the profile, and refuses what does not fit', async () => {
    const { unit, asked } = newer(
      { widths: { address: 3, length: 2 }, dataFormat: 0x11 },
      '74 10 ff',
      '75 10 ff',
    )
    await unit.requestDownload(0x012345, 0x6789)
    await unit.requestUpload(0x012345, 0x6789)
    // Packed is what goes in; what is read out comes as it is.
    expect(asked).toEqual(['34 11 23 01 23 45 67 89', '35 00 23 01 23 45 67 89'])
    expect([...udsRange(0xffffff, 0xffff, { widths: { address: 3, length: 2 } })]).toEqual([
      255, 255, 255, 255, 255,
    ])
    for (const [address, length] of [
      [0x1000000, 1],
      [1, 0x10000],
    ] as const)
      expect(() => udsRange(address, length, { widths: { address: 3, length: 2 } })).toThrow(/does not fit/)
  })
})

describe('fault codes', () => {
  it('are four bytes each after the mask; a list that broke off is none', async () => {
    expect(await newer({}, '59 02 ff 01 02 03 2f').unit.readFaults(0xff)).toEqual([
      { code: 0x010203, status: 0x2f },
    ])
    expect(await newer({}, '59 02 ff').unit.readFaults(0xff)).toEqual([])
    expect(await factsOf(newer({}, '59 02 ff 01 02 03').unit.readFaults(0xff))).toMatchObject({
      ...odd,
      place: { at: 'fault codes' },
    })
  })
  it('of an older controller are as many as it says', async () => {
    expect(await older('58 02 01 02 2f 03 04 50').unit.readFaults(0)).toEqual([
      { code: 0x0102, status: 0x2f },
      { code: 0x0304, status: 0x50 },
    ])
    expect(await older('58 00').unit.readFaults(0)).toEqual([])
    for (const says of ['58 02 01 02 2f', '58 01 01 02', '58 00 01'])
      expect(await factsOf(older(says).unit.readFaults(0))).toMatchObject({ kind: 'uds-answer' })
  })
})

describe('one question', () => {
  const ask = (
    made: ReturnType<typeof controller>,
    timing = { answerMs: 100, pendingMs: 500, maxPendingMs: 1000 },
  ) => askUds(made.transport, made.clock, bytes('22 f1 90'), timing)
  it('passes over answers to others, and is silence after its time', async () => {
    const made = controller('62 f1 90 01')
    expect([...(await ask(made))]).toEqual([0xf1, 0x90, 1])
    const others = controller('63 00 | 7f 31 10 | 62 f1 90 02')
    expect([...(await ask(others))]).toEqual([0xf1, 0x90, 2])
    const silent = controller('')
    expect(await factsOf(ask(silent))).toMatchObject({ kind: 'uds-silent', thing: 'controller' })
    expect(silent.clock.now()).toBe(100)
  })
  it('that is refused says why, and is not asked again', async () => {
    const made = controller('7f 22 31')
    expect(await factsOf(ask(made))).toMatchObject({
      kind: 'uds-refused',
      found: 'it does not have this identifier or this range',
    })
    expect(made.asked).toHaveLength(1)
    // One that gives no code refuses all the same.
    expect(await factsOf(ask(controller('7f 22')))).toMatchObject({ kind: 'uds-refused' })
  })
  it('"needs longer" gives it the longer time, and no more than the longest', async () => {
    const made = controller('7f 22 78')
    expect(await factsOf(ask(made))).toMatchObject({ kind: 'uds-silent' })
    expect(made.clock.now()).toBe(500)
    expect(made.asked).toHaveLength(1)
  })
  it('"busy" is asked again after a rest, so long', async () => {
    const made = controller('7f 22 21', '7f 22 21', '62 f1 90 01')
    expect(await ask(made)).toHaveLength(3)
    expect(made.asked).toHaveLength(3)
    expect(made.clock.now()).toBe(200)
    const never = controller('7f 22 21')
    expect(await factsOf(ask(never))).toMatchObject({ kind: 'uds-refused' })
    expect(never.asked).toHaveLength(11)
  })
})

// ISO 14230-3: the result of a routine is asked for by itself; 21 and 23 say that it is not there yet.
describe('the result of an older controller’s routine', () => {
  const bench = (...says: string[]) => {
    const made = controller(...says)
    return { ...made, unit: olderClient(made.transport, made.clock, undefined, { routineResults: true }) }
  }
  it.each(['21', '23'])('is asked for until it is there, where it says %s', async (code) => {
    const { unit, asked } = bench('71 ff', `7f 33 ${code}`, `7f 33 ${code}`, '73 ff 01')
    expect([...(await unit.startRoutine(0xff))]).toEqual([1])
    expect(asked).toEqual(['31 ff', '33 ff', '33 ff', '33 ff'])
  })
  it('that is refused for another reason is none', async () => {
    expect(await factsOf(bench('71 ff', '7f 33 22').unit.startRoutine(0xff))).toMatchObject({
      kind: 'uds-refused',
    })
  })
  it('that never comes is given up after two minutes', async () => {
    const { unit, clock } = bench('71 ff', '7f 33 23')
    expect(await factsOf(unit.startRoutine(0xff))).toMatchObject({ kind: 'uds-refused' })
    expect(clock.now()).toBeGreaterThan(120_000)
    expect(clock.now()).toBeLessThan(121_000)
  })
  it('is waited for although the computer stood still before it read "not yet"', async () => {
    const { unit, clock, transport } = bench('71 ff', '7f 33 23', '73 ff 01')
    const receive = transport.receive.bind(transport)
    let answers = 0
    transport.receive = async (ms) => {
      if (++answers === 2) await clock.sleep(600_000)
      return receive(ms)
    }
    expect([...(await unit.startRoutine(0xff))]).toEqual([1])
  })
})
