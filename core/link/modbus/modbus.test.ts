import { demoFamily } from '@bench-wake/demo'
import { answerIdentity, rs485Unit, type Rs485UnitForm } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  answerLength,
  answerRecords,
  readRecordAnswer,
  readRecordRequest,
  readRecords,
  readRecordsPdu,
  recordOf,
  recordWireMs,
  writeRecords,
  writeRecordsPdu,
  askIdentity,
  askModbus,
  readIdentity,
  readRtu,
  scanBus,
  silenceMs,
  writeRtu,
  type SerialSettings,
} from '..'
import { asciiBytes, crc16Modbus, isProblem, virtualClock } from '../../kernel'

const bytes = (hex: string) => Uint8Array.from(hex.split(' ').map((each) => parseInt(each, 16)))
const settings: SerialSettings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }
const turn = () => new Promise<void>((done) => setImmediate(done))

async function bus(form: Partial<Rs485UnitForm> = {}) {
  const clock = virtualClock(turn)
  const unit = rs485Unit({
    id: 'battery-21',
    name: 'Battery 21',
    family: demoFamily('buoy-battery'),
    hardware: '58',
    serial: 'BP-05310',
    state: { flash: new Uint8Array(0xe000).fill(0xff), usedAh: 0, inBootloader: true },
    link: demoFamily('buoy-battery').links[0] as Rs485UnitForm['link'],
    neighbours: [
      { id: 'other-packs', address: 1 },
      { id: 'buoy-controller', address: 3 },
    ],
    ...form,
  })
  const { channel } = unit.connect(clock)
  if (channel.kind !== 'serial') throw new TypeError('a bus is joined over a serial port')
  const { port } = channel
  await port.open(settings)
  return { unit, port, clock }
}

describe('Modbus RTU frames', () => {
  // Source: CRC RevEng catalogue, CRC-16/MODBUS, check value of "123456789".
  it('bear the catalogue’s CRC', () => expect(crc16Modbus(asciiBytes('123456789'))).toBe(0x4b37))
  // Source: Modbus over Serial Line V1.02, clause 6.2.2: low byte of the CRC first; the frame is in wide use (from memory).
  it('end with the low byte of the CRC', () => {
    expect([...writeRtu({ address: 1, pdu: bytes('03 00 00 00 0a') })]).toEqual([
      ...bytes('01 03 00 00 00 0a c5 cd'),
    ])
  })
  // Source: Application Protocol V1.1b3, clause 6.3 (read holding registers) and 6.21 (device identification), examples.
  it('are as long as the standard’s worked answers', () => {
    const registers = writeRtu({ address: 1, pdu: bytes('03 06 02 2b 00 00 00 64') })
    expect(answerLength(registers)).toBe(registers.length)
    const identity = writeRtu({
      address: 1,
      pdu: answerIdentity(['Company identification', 'Product code XX', 'V2.11']),
    })
    expect([...identity.subarray(1, 10)]).toEqual([...bytes('2b 0e 01 01 00 00 03 00 16')])
    expect(answerLength(identity)).toBe(identity.length)
    expect(readIdentity(readRtu(identity).pdu)).toEqual(
      new Map([
        [0, 'Company identification'],
        [1, 'Product code XX'],
        [2, 'V2.11'],
      ]),
    )
    expect(answerLength(bytes('01 81 01 00 00'))).toBe(5)
  })
  // Source: Serial Line V1.02, clause 2.5.1.1: 3.5 characters; 1.75 ms above 19 200 baud.
  it('are told apart by 3.5 characters of silence', () => {
    expect(silenceMs(settings)).toBeCloseTo((3.5 * 10 * 1000) / 9600, 9)
    expect(silenceMs({ ...settings, baudRate: 115_200 })).toBe(1.75)
  })
  it('whose bits were flipped, or that are no frames at all, are refused with their own problem and no other', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 200 }),
        fc.nat(247),
        fc.nat(7),
        fc.nat(),
        (pdu, address, bit, at) => {
          const frame = writeRtu({ address, pdu })
          expect(readRtu(frame)).toEqual({ address, pdu })
          frame[at % frame.length]! ^= 1 << bit
          expect(() => readRtu(frame)).toThrow(/CRC/)
        },
      ),
    )
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (noise) => {
        answerLength(noise)
        try {
          readRtu(noise)
        } catch (error) {
          expect(isProblem(error, 'modbus-frame')).toBe(true)
        }
      }),
    )
  })
})

// PRACTICE F4, common practice: one unit on the bus, no master, no slave, nothing else.
describe('a scan of the bus', () => {
  it('finds noise at an address that two units share, and who else is there', async () => {
    const { port } = await bus()
    const scan = await scanBus(port, 1, 8, { answerMs: 200 })
    expect(scan).toEqual({ found: [{ address: 3, product: 'BP-5' }], garbled: [1], silent: 6 })
  })
  it('counts one when the neighbours are unplugged', async () => {
    const { unit, port, clock } = await bus()
    unit.unplug!(['other-packs', 'buoy-controller'])
    const from = clock.now()
    const scan = await scanBus(port, 1, 8, { answerMs: 200 })
    expect(scan).toEqual({ found: [{ address: 1, product: 'BP-5' }], garbled: [], silent: 7 })
    // Seven silences of 200 ms and one answer: a person waits two seconds at most.
    expect(clock.now() - from).toBeLessThan(2000)
  })
  it('hears nobody at another speed', async () => {
    const { unit, port } = await bus()
    unit.unplug!(['other-packs', 'buoy-controller'])
    await port.open({ ...settings, baudRate: 19_200 })
    expect((await scanBus(port, 1, 8, { answerMs: 200 })).found).toEqual([])
  })
  it('counts a unit that refuses the question: it is there', async () => {
    const { unit, port } = await bus()
    unit.unplug!(['other-packs', 'buoy-controller'])
    await expect(askModbus(port, 1, bytes('08 00 00 00 01'), { answerMs: 200 })).rejects.toMatchObject({
      facts: { kind: 'modbus-exception', found: 'exception 1' },
    })
    expect((await askModbus(port, 1, askIdentity, { answerMs: 200 }))[0]).toBe(0x2b)
  })
})

describe('file records', () => {
  // Source: Application Protocol V1.1b3, clause 6.14, worked example: two groups of two records.
  it('are asked for and answered as the standard’s example', () => {
    const groups = [
      { file: 4, record: 1, count: 2 },
      { file: 3, record: 9, count: 2 },
    ]
    const request = bytes('14 0e 06 00 04 00 01 00 02 06 00 03 00 09 00 02')
    expect([...readRecordsPdu(groups)]).toEqual([...request])
    expect(readRecordRequest(request)).toEqual(groups)
    const answer = bytes('14 0c 05 06 0d fe 00 20 05 06 33 cd 00 40')
    expect([...answerRecords([bytes('0d fe 00 20'), bytes('33 cd 00 40')])]).toEqual([...answer])
    expect(readRecordAnswer(answer).map((each) => [...each])).toEqual([
      [0x0d, 0xfe, 0x00, 0x20],
      [0x33, 0xcd, 0x00, 0x40],
    ])
  })
  // Source: the same, clause 6.15, worked example: three records from record 7 of file 4.
  it('are written as the standard’s example', () => {
    const request = bytes('15 0d 06 00 04 00 07 00 03 06 af 04 be 10 0d')
    expect([...writeRecordsPdu(4, 7, bytes('06 af 04 be 10 0d'))]).toEqual([...request])
    expect(readRecordRequest(request)).toEqual([
      { file: 4, record: 7, count: 3, bytes: bytes('06 af 04 be 10 0d') },
    ])
  })
  // Source: the same, clause 6.14: records 0 to 9999 of a file.
  it('go on in the next file after record 9999', () => {
    expect(recordOf(9999)).toEqual({ file: 1, record: 9999 })
    expect(recordOf(10_000)).toEqual({ file: 2, record: 0 })
  })
  it('carry an image to the unit and back, over the end of a file, close to what the wire allows', async () => {
    const flash = new Uint8Array(0xe000).fill(0xff)
    const { unit, port, clock } = await bus({ state: { flash, usedAh: 0, inBootloader: true } })
    unit.unplug!(['other-packs', 'buoy-controller'])
    const image = Uint8Array.from({ length: 25_001 }, (_, at) => (at * 31 + (at >> 8)) & 255)
    const from = clock.now()
    const seen: number[] = []
    await writeRecords(port, 1, image, { answerMs: 1000 }, (done) => void seen.push(done))
    const took = clock.now() - from
    expect(Buffer.from(flash.subarray(0, image.length)).equals(image)).toBe(true)
    expect(seen.at(-1)).toBe(image.length)
    expect(await readRecords(port, 1, image.length, { answerMs: 1000 })).toEqual(image)
    // Wanted: 97 % of the limit with its silences.
    expect(recordWireMs(image.length, settings) / took).toBeGreaterThan(0.97)
  })
  it('go on from where they were cut', async () => {
    const flash = new Uint8Array(0xe000).fill(0xff)
    const { unit, port } = await bus({ state: { flash, usedAh: 0, inBootloader: true } })
    unit.unplug!(['other-packs', 'buoy-controller'])
    const image = Uint8Array.from({ length: 2000 }, (_, at) => at & 255)
    const cut = new Error('cut')
    let reached = 0
    await expect(
      writeRecords(port, 1, image, { answerMs: 1000 }, (done) => {
        reached = done
        if (done > 900) throw cut
      }),
    ).rejects.toBe(cut)
    expect(flash[reached]).toBe(0xff)
    await writeRecords(port, 1, image, { answerMs: 1000 }, () => {}, reached)
    expect(Buffer.from(flash.subarray(0, 2000)).equals(image)).toBe(true)
  })
  it('outside the unit’s memory are refused in words', async () => {
    const { unit, port } = await bus()
    unit.unplug!(['other-packs', 'buoy-controller'])
    await expect(
      writeRecords(port, 1, new Uint8Array(0xe100), { answerMs: 1000 }, () => {}, 0xdf00),
    ).rejects.toMatchObject({
      facts: { kind: 'modbus-exception', says: expect.stringContaining('does not have this address') },
    })
  })
  it('never throw anything but their own problem, whatever bytes come', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 253 }), (noise) => {
        readRecordRequest(noise)
        try {
          readRecordAnswer(noise)
        } catch (error) {
          expect(isProblem(error, 'modbus-records')).toBe(true)
        }
      }),
    )
  })
})
