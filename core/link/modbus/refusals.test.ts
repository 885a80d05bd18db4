import { describe, expect, it } from 'vitest'
import { virtualClock } from '../../kernel'
import type { SerialSettings } from '../port'
import { unitOnBus, type Says } from './bus.test-support'
import {
  askModbus,
  exceptionWords,
  modbusUnit,
  readRecords,
  readRegisters,
  writeRecords,
  writeRegisters,
  writeRtu,
} from '.'
import { factsOf } from '../refusal.test-support'

/*
 * What is no answer to what was asked. Sources: Modbus Application Protocol V1.1b3, clauses 6.3 (the byte count is twice the
 * quantity), 6.6 and 6.12 (the answer to a write repeats where, and how many), 6.14, 6.15 and 7; Modbus over Serial Line V1.02.
 */

const settings: SerialSettings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }
const turn = () => new Promise<void>((done) => setImmediate(done))
/** A unit that says so to each request in turn; the last for ever. */
function bus(...says: Says[]) {
  const left = [...says]
  return unitOnBus(7, settings, () => (left.length > 1 ? left.shift()! : left[0]!))
}
const timing = { answerMs: 50 }
const kindOf = async (act: Promise<unknown>) => (await factsOf(act))?.kind ?? 'taken'

describe('one question', () => {
  const ask = (...says: Says[]) => askModbus(bus(...says).port, 7, Uint8Array.of(3, 0, 1, 0, 1), timing)
  it('that nobody answers is silence, and names the address', async () => {
    expect(await factsOf(ask(null))).toMatchObject({ kind: 'modbus-silent', thing: 'address 7' })
  })
  it('that another address answers, or another function, is not answered', async () => {
    expect(await factsOf(ask(writeRtu({ address: 8, pdu: Uint8Array.of(3, 2, 0, 1) })))).toMatchObject({
      kind: 'modbus-other',
      expected: 'address 7, function 3',
      found: 'address 8, function 3',
    })
    expect(await factsOf(ask([6, 0, 1, 0, 1]))).toMatchObject({
      kind: 'modbus-other',
      found: 'address 7, function 6',
    })
  })
  it('with a bit of the answer turned is none', async () => {
    const frame = writeRtu({ address: 7, pdu: Uint8Array.of(3, 2, 0, 1) })
    for (let at = 0; at < frame.length; at++) {
      const turned = frame.slice()
      turned[at]! ^= 1
      expect(await kindOf(ask(turned)), `byte ${at}`).toBe('modbus-frame')
    }
    expect(await kindOf(ask(Uint8Array.of(7, 3, 2)))).toBe('modbus-frame')
  })
  it.each([...Object.keys(exceptionWords).map(Number), 99])(
    'refused with exception %i says why',
    async (code) => {
      const facts = await factsOf(ask([0x83, code]))
      expect(facts).toMatchObject({ kind: 'modbus-exception', found: `exception ${code}` })
      expect(facts!.says).toBe(`the unit refuses: ${exceptionWords[code] ?? 'it gives no known reason'}`)
    },
  )
  it('an exception of another function is not this one’s', async () => {
    expect(await kindOf(ask([0x86, 2]))).toBe('modbus-other')
  })
})

describe('registers', () => {
  const read = (count: number, ...says: Says[]) => readRegisters(bus(...says).port, 7, 0x1234, count, timing)
  it('are asked for and read high byte first', async () => {
    const { port, asked } = bus([3, 4, 0x12, 0x34, 0xab, 0xcd])
    expect(await readRegisters(port, 7, 0x0102, 2, timing)).toEqual([0x1234, 0xabcd])
    expect(asked).toEqual([[3, 1, 2, 0, 2]])
  })
  it.each([
    ['fewer', [3, 2, 0, 1]],
    ['more', [3, 6, 0, 1, 0, 2, 0, 3]],
    ['none', [3, 0]],
    [
      'a count that is not what follows',
      Uint8Array.from(writeRtu({ address: 7, pdu: Uint8Array.of(3, 4, 0, 1) })),
    ],
  ] as [string, Says][])(
    '%s than were asked for are no answer: nothing is taken for zero',
    async (_, says) => {
      expect(await factsOf(read(2, says))).toMatchObject({
        kind: 'modbus-other',
        says: 'the answer is not to what was asked',
        expected: '2 registers',
      })
    },
  )
  it('are written, and the answer repeats where and how many', async () => {
    const { port, asked } = bus([16, 0x10, 0x20, 0, 2])
    await writeRegisters(port, 7, 0x1020, [0x1234, 0xabcd], timing)
    expect(asked).toEqual([[16, 0x10, 0x20, 0, 2, 4, 0x12, 0x34, 0xab, 0xcd]])
  })
  it.each([
    ['another register', [16, 0x10, 0x21, 0, 2]],
    ['fewer of them', [16, 0x10, 0x20, 0, 1]],
    ['nothing', [16]],
  ] as [string, Says][])('an answer that says %s was written is not this one’s', async (_, says) => {
    expect(await kindOf(writeRegisters(bus(says).port, 7, 0x1020, [1, 2], timing))).toBe('modbus-other')
  })
})

describe('a unit as its profile says', () => {
  const unit = (drive: object, ...says: Says[]) => {
    const clock = virtualClock(turn)
    const made = bus(...says)
    return { ...made, clock, unit: modbusUnit(made.port, clock, { address: 7, ...drive } as never) }
  }
  it('is asked three times in all where the line may be at fault, and then given up', async () => {
    for (const says of [
      null,
      Uint8Array.of(1, 2, 3, 4),
      writeRtu({ address: 9, pdu: Uint8Array.of(3, 2, 0, 0) }),
    ] as Says[]) {
      const { unit: asks, asked } = unit({}, says)
      expect(await kindOf(asks.read(1, 1))).not.toBe('taken')
      expect(asked).toHaveLength(3)
    }
    const { unit: asks, asked } = unit({}, null, null, [3, 2, 0, 5])
    expect(await asks.read(1, 1)).toEqual([5])
    expect(asked).toHaveLength(3)
  })
  it('is not asked again for what it refuses', async () => {
    const { unit: asks, asked } = unit({}, [0x83, 2])
    expect(await kindOf(asks.read(1, 1))).toBe('modbus-exception')
    expect(asked).toHaveLength(1)
  })
  it.each([5, 6])('with exception %i is waited for, so long and no longer', async (code) => {
    const { unit: asks, clock } = unit({ timing: { busyMs: 1000 } }, [0x83, code], [0x83, code], [3, 2, 0, 5])
    expect(await asks.read(1, 1)).toEqual([5])
    expect(clock.now()).toBe(400)
    const never = unit({ timing: { busyMs: 1000 } }, [0x83, code])
    expect(await kindOf(never.unit.read(1, 1))).toBe('modbus-exception')
    // It is asked at 0, 200, … 1 000 and a last time at 1 200 ms.
    expect(never.asked).toHaveLength(7)
  })
  it('a command that has begun is not given again; one that it is too busy for is', async () => {
    const begun = unit({}, [0x86, 5])
    await begun.unit.once(Uint8Array.of(6, 0, 1, 0, 2))
    expect(begun.asked).toHaveLength(1)
    const busy = unit({}, [0x86, 6], [6, 0, 1, 0, 2])
    await busy.unit.once(Uint8Array.of(6, 0, 1, 0, 2))
    expect(busy.asked).toHaveLength(2)
  })
  it('a command for another register is no answer to this one', async () => {
    const { unit: asks } = unit({}, [6, 0, 9, 0, 2])
    expect(await kindOf(asks.once(Uint8Array.of(6, 0, 1, 0, 2)))).toBe('modbus-other')
  })
  it('rests between two questions as long as it wants', async () => {
    const { unit: asks, clock } = unit({ timing: { pauseMs: 40 } }, [3, 2, 0, 5])
    await asks.read(1, 1)
    await asks.read(1, 1)
    expect(clock.now()).toBe(80)
  })
  it('puts two registers together as its order of words says, and apart the same', () => {
    const high = unit({}).unit
    expect(high.value([0x1234, 0xabcd])).toBe(0x1234abcd)
    expect(high.words(0x1234abcd)).toEqual([0x1234, 0xabcd])
    const low = unit({ wordOrder: 'low-first' }).unit
    expect(low.value([0x1234, 0xabcd])).toBe(0xabcd1234)
    expect(low.words(0x1234abcd)).toEqual([0xabcd, 0x1234])
    // The highest bit is a value like any other.
    expect(high.value([0xffff, 0xffff])).toBe(0xffffffff)
    expect(high.words(0xffffffff)).toEqual([0xffff, 0xffff])
  })
})

describe('file records', () => {
  const image = Uint8Array.from({ length: 8 }, (_, at) => at)
  const echo = [0x15, 7 + 8, 6, 0, 1, 0, 0, 0, 4, ...image]
  it('are sent again up to five times in all, and then given up', async () => {
    const told: [number, number][] = []
    const { port, asked } = bus(null, null, null, null, echo)
    await writeRecords(port, 7, image, timing, (done, retries) => void told.push([done, retries]))
    expect(asked).toHaveLength(5)
    expect(told).toEqual([[8, 4]])
    const gone = bus(null)
    expect(await kindOf(writeRecords(gone.port, 7, image, timing))).toBe('modbus-silent')
    expect(gone.asked).toHaveLength(5)
  })
  it('that come back otherwise were not written', async () => {
    const other = [...echo]
    other[10] = 99
    expect(await factsOf(writeRecords(bus(other).port, 7, image, timing))).toMatchObject({
      kind: 'modbus-records',
      place: { offset: 0 },
    })
    expect(await kindOf(writeRecords(bus(echo.slice(0, -2)).port, 7, image, timing))).toBe('modbus-records')
  })
  it('of fewer bytes than were asked for are not what lies there', async () => {
    const answer = (...data: number[]) => [0x14, 2 + data.length, 1 + data.length, 6, ...data]
    expect([...(await readRecords(bus(answer(1, 2, 3, 4)).port, 7, 3, timing))]).toEqual([1, 2, 3])
    expect(await kindOf(readRecords(bus(answer(1, 2)).port, 7, 3, timing))).toBe('modbus-records')
    expect(await kindOf(readRecords(bus(answer(1, 2, 3, 4, 5, 6)).port, 7, 3, timing))).toBe('modbus-records')
  })
})
