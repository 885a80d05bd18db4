import { crc16modbus } from 'crc'
import fc from 'fast-check'
import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import {
  addressText,
  asciiBytes,
  asciiText,
  bytesOfHex,
  bytesText,
  canonicalJson,
  clockText,
  concatBytes,
  crc16Modbus,
  durationText,
  equalBytes,
  firstDifference,
  groupedNumber,
  heaviestFirst,
  hexNumber,
  hexOf,
  inSentence,
  isProblem,
  Problem,
  rateText,
  realClock,
  scaledClock,
  sha256Hex,
  sha256OfParts,
  verdictAfter,
  verdictOf,
  virtualClock,
  voltsText,
  type Finding,
} from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const finding = (level: Finding['level'], rule: string = level): Finding => ({
  rule,
  level,
  says: 's',
  because: 'b',
})

describe('bytes', () => {
  // Reference: Node's Buffer.
  it('are joined, compared and written as Node does', () => {
    fc.assert(
      fc.property(
        fc.array(fc.uint8Array({ maxLength: 20 })),
        fc.uint8Array({ maxLength: 20 }),
        (parts, other) => {
          const whole = concatBytes(parts)
          expect(Buffer.from(whole).equals(Buffer.concat(parts))).toBe(true)
          expect(hexOf(whole)).toBe(Buffer.from(whole).toString('hex'))
          expect(Buffer.from(bytesOfHex(hexOf(whole))).equals(Buffer.from(whole))).toBe(true)
          expect(asciiText(whole)).toBe(Buffer.from(whole).toString('latin1'))
          expect(Buffer.from(asciiBytes(asciiText(whole))).equals(Buffer.from(whole))).toBe(true)
          expect(equalBytes(whole, other)).toBe(Buffer.from(whole).equals(Buffer.from(other)))
        },
      ),
    )
  })
  it('differ first where they differ, a shorter one at its end', () => {
    const of = (...values: number[]) => Uint8Array.from(values)
    expect(firstDifference(of(1, 2, 3), of(1, 2, 3))).toBe(-1)
    expect(firstDifference(of(1, 2, 3), of(1, 9, 3))).toBe(1)
    expect(firstDifference(of(9, 2), of(1, 2))).toBe(0)
    expect(firstDifference(of(1, 2), of(1, 2, 3))).toBe(2)
    expect(firstDifference(of(1, 2, 3), of(1, 2))).toBe(2)
    expect(firstDifference(of(), of())).toBe(-1)
    expect(equalBytes(of(1), of(1, 0))).toBe(false)
  })
  it('of a text are refused above 255, with the place', () => {
    expect(() => asciiBytes('abΩ')).toThrow(/Character 2 of "abΩ"/)
    expect([...asciiBytes('\u00ff\u00fe')]).toEqual([255, 254])
    expect(() => asciiBytes('\u0100')).toThrow(RangeError)
    expect([...bytesOfHex('5a1')]).toEqual([0x5a])
  })
  it('and numbers are written as technicians do', () => {
    expect(hexNumber(0xab, 4)).toBe('00AB')
    expect(hexNumber(0x12345, 4)).toBe('12345')
    expect(addressText(0x8008000)).toBe('0x08008000')
  })
})

describe('checksums and digests', () => {
  // Source: CRC RevEng catalogue, CRC-16/MODBUS, check 0x4B37. Reference: the npm package `crc`.
  it('CRC-16/MODBUS is the catalogue’s and an independent implementation’s', () => {
    expect(crc16Modbus(asciiBytes('123456789'))).toBe(0x4b37)
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
        expect(crc16Modbus(bytes)).toBe(crc16modbus(Buffer.from(bytes)))
      }),
    )
  })
  it('SHA-256 of parts is that of the whole, and of bytes that of bytes', () => {
    fc.assert(
      fc.property(fc.array(fc.uint8Array({ maxLength: 80 })), (parts) => {
        const known = createHash('sha256').update(Buffer.concat(parts)).digest('hex')
        expect(sha256OfParts(parts)).toBe(known)
        expect(sha256Hex(concatBytes(parts))).toBe(known)
      }),
    )
  })
})

describe('canonical JSON', () => {
  // Source: RFC 8785, 3.2.3: members sorted by UTF-16 code units; undefined has no place in JSON.
  it('sorts by code units, whatever order they came in', () => {
    const keys = ['b', 'a', 'B', '\u20ac', '1', '10', '2', '']
    for (const order of [keys, keys.toReversed(), keys.toSorted()]) {
      const value = Object.fromEntries(order.map((key) => [key, 0]))
      expect(canonicalJson(value)).toBe('{"":0,"1":0,"10":0,"2":0,"B":0,"a":0,"b":0,"\u20ac":0}')
    }
    expect(canonicalJson(undefined)).toBe('null')
    expect(canonicalJson([undefined, 'x', true])).toBe('[null,"x",true]')
  })
})

describe('verdicts', () => {
  it('weigh stop over hold over note over go, from either side', () => {
    const levels = ['go', 'note', 'hold', 'stop'] as const
    for (const a of levels)
      for (const b of levels) {
        const worse = levels.indexOf(a) > levels.indexOf(b) ? a : b
        expect(verdictOf([finding(a), finding(b)])).toBe(worse)
      }
  })
  it('list the heaviest first and keep equals in their order', () => {
    const list = [
      finding('go'),
      finding('hold', 'one'),
      finding('stop'),
      finding('hold', 'two'),
      finding('note'),
    ]
    expect(heaviestFirst(list).map(({ rule }) => rule)).toEqual(['stop', 'one', 'two', 'note', 'go'])
    expect(list[0]!.level).toBe('go')
  })
  it('release one hold by its own rule and nothing else', () => {
    const by = (rule: string) => ({ rule, name: 'A. Lund', reason: 'spare' })
    expect(verdictAfter([finding('hold', 'a')], [by('b')])).toBe('hold')
    expect(verdictAfter([finding('hold', 'a')], [by('a'), by('b')])).toBe('note')
    expect(verdictAfter([finding('stop', 'a')], [by('a')])).toBe('stop')
    expect(verdictAfter([finding('go', 'a')], [by('a')])).toBe('go')
    expect(verdictAfter([], [by('a')])).toBe('unknown')
  })
})

describe('words', () => {
  it('a name loses its capital within a sentence, a mark does not', () => {
    expect(inSentence('Main processor')).toBe('main processor')
    expect(inSentence('Processor A')).toBe('processor A')
    expect(inSentence('LED board')).toBe('LED board')
    expect(inSentence('the Main one')).toBe('the Main one')
    expect(inSentence('1 Main')).toBe('1 Main')
  })
  it('figures stand in groups of three and on one line', () => {
    expect(groupedNumber(0)).toBe('0')
    expect(groupedNumber(999)).toBe('999')
    expect(groupedNumber(262_144.4)).toBe('262\u00a0144')
    expect(groupedNumber(1_234_567)).toBe('1\u00a0234\u00a0567')
    expect(bytesText(1)).toBe('1 byte')
    expect(bytesText(0)).toBe('0 bytes')
    expect(bytesText(1024)).toBe('1\u00a0024 bytes')
    expect(rateText(11_130)).toBe('11.1 kB/s')
    expect(voltsText(12.406)).toBe('12.41 V')
  })
  it('times turn over at the minute and the hour', () => {
    expect(clockText(59_999)).toBe('1:00')
    expect(clockText(3_599_000)).toBe('59:59')
    expect(clockText(3_600_000)).toBe('1:00:00')
    expect(clockText(-5)).toBe('0:00')
    expect(durationText(999)).toBe('999 ms')
    expect(durationText(1000)).toBe('1.0 s')
    expect(durationText(9_949)).toBe('9.9 s')
    expect(durationText(10_000)).toBe('10 s')
    expect(durationText(89_000)).toBe('89 s')
    expect(durationText(90_000)).toBe('2 min')
    expect(durationText(3_540_000)).toBe('59 min')
    expect(durationText(3_600_000)).toBe('1 h')
    expect(durationText(7_260_000)).toBe('2 h 1 min')
  })
})

describe('a problem', () => {
  const facts = { kind: 'k', says: 'it is so', remedy: 'Mend it.' }
  it('names only what it knows', () => {
    expect(new Problem(facts).message).toBe('it is so. Mend it.')
    expect(new Problem({ ...facts, place: { offset: 0 } }).message).toBe('byte 0: it is so. Mend it.')
    expect(new Problem({ ...facts, place: { at: 'field' } }).message).toBe('field: it is so. Mend it.')
    expect(new Problem({ ...facts, place: { line: 3 } }).message).toBe('line 3: it is so. Mend it.')
    expect(new Problem({ ...facts, expected: 'a' }).message).toBe('it is so (expected a). Mend it.')
    expect(new Problem({ ...facts, found: 'b' }).message).toBe('it is so (found b). Mend it.')
    expect(new Problem({ ...facts, thing: 'unit', place: {} }).message).toBe('unit: it is so. Mend it.')
    expect(new Problem(facts).name).toBe('Problem')
  })
  it('is told from other errors, and by its kind', () => {
    expect(isProblem(new Problem(facts))).toBe(true)
    expect(isProblem(new Problem(facts), 'k')).toBe(true)
    expect(isProblem(new Problem(facts), 'other')).toBe(false)
    expect(isProblem({ facts })).toBe(false)
    expect(isProblem(undefined, 'k')).toBe(false)
  })
})

describe('clocks', () => {
  it('run at a factor above zero only', () => {
    const host = { now: () => 0, after: () => () => {} }
    expect(() => scaledClock(host, 0)).toThrow(/factor above 0, not 0/)
    expect(() => scaledClock(host, -1)).toThrow(RangeError)
    expect(() => scaledClock(host, Number.NaN)).toThrow(RangeError)
    expect(scaledClock(host, 0.5).now()).toBe(0)
  })
  it('real time is the host’s', () => {
    let at = 5
    const waits: number[] = []
    const clock = realClock({ now: () => at, after: (ms, act) => (waits.push(ms), act(), () => {}) })
    at = 9
    expect(clock.now()).toBe(9)
    clock.after(-3, () => {})
    clock.after(7, () => {})
    expect(waits).toEqual([0, 7])
  })
  it('virtual time wakes any number of sleepers in the order of their time, and equals as they lay down', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(6), { maxLength: 24 }), async (naps) => {
        const clock = virtualClock(turn)
        const woken: [number, number][] = []
        await Promise.all(naps.map((ms, index) => clock.sleep(ms).then(() => void woken.push([ms, index]))))
        const wanted = naps.map((ms, index): [number, number] => [ms, index])
        expect(woken).toEqual(wanted.sort((a, b) => a[0] - b[0] || a[1] - b[1]))
        expect(clock.now()).toBe(Math.max(0, ...naps))
      }),
    )
  })
  it('virtual time moves on only when the last of several holds is over', async () => {
    const clock = virtualClock(turn)
    let rang = false
    clock.after(5, () => (rang = true))
    let free: () => void = () => {}
    const long = clock.freezeWhile(new Promise<void>((done) => (free = done)))
    await clock.freezeWhile(turn())
    await turn()
    await turn()
    expect(rang).toBe(false)
    expect(clock.now()).toBe(0)
    free()
    await long
    await clock.sleep(0)
    await clock.sleep(10)
    expect(rang).toBe(true)
  })
  it('a paced clock waits for the host before it moves, and looks again at what changed meanwhile', async () => {
    const waits: number[] = []
    const rang: string[] = []
    const clock = virtualClock(turn, 100, async (ahead) => {
      waits.push(ahead)
      // While the host waits an earlier timer is set and the later one called off.
      if (waits.length === 1) {
        clock.after(10, () => rang.push('early'))
        callOff()
      }
    })
    const callOff = clock.after(50, () => rang.push('called off'))
    const last = clock.sleep(80).then(() => rang.push('last'))
    await last
    expect(rang).toEqual(['early', 'last'])
    expect(waits).toEqual([50, 10, 70])
    expect(clock.now()).toBe(180)
    // What is due at once is not paced.
    await clock.sleep(0)
    expect(waits).toHaveLength(3)
  })
  it('an act that rings may lay down again', async () => {
    const clock = virtualClock(turn)
    const at: number[] = []
    await new Promise<void>((done) => {
      const again = () => {
        at.push(clock.now())
        if (at.length === 4) done()
        else clock.after(3, again)
      }
      clock.after(3, again)
    })
    expect(at).toEqual([3, 6, 9, 12])
  })
})
