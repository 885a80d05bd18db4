import { describe, expect, it } from 'vitest'
import { asciiBytes, isProblem } from '../../kernel'
import type { SendForm } from '../xmodem'
import { blockOf, byHand, filled } from '../xmodem/hand.test-support'
import { decodeHeader, encodeHeader, receiveYmodem, sendYmodem, type BatchForm } from '.'

/* Chuck Forsberg, "XMODEM/YMODEM Protocol Reference", October 14, 1988, section 5: the other end answers byte by byte. */

const [EOT, ACK, NAK, CAN, C] = [0x04, 0x06, 0x15, 0x18, 0x43]
const factsOf = (error: unknown) => (isProblem(error) ? error.facts : error)
/** Data of block 0 with a text in it. */
const header = (text: string, length = 128) => {
  const bytes = [...asciiBytes(text)]
  return [...bytes, ...filled(length - bytes.length, 0)]
}

describe('block 0', () => {
  const read = (text: string) => decodeHeader(asciiBytes(text))
  it('leaves out a time without a size, and refuses a name with a zero in it', () => {
    expect([...encodeHeader({ name: 'a', changedAt: 8000 })]).toEqual(header('a'))
    expect([...encodeHeader({ name: 'a', size: 5 })]).toEqual(header('a\x005'))
    expect([...encodeHeader({ name: 'a', size: 5, changedAt: 8999 })]).toEqual(header('a\x005 10'))
    expect(() => encodeHeader({ name: 'a\0b' })).toThrow(RangeError)
  })
  it('is small to 127 characters and large to 1 023', () => {
    // The name, a zero, one digit.
    const length = (name: number) => encodeHeader({ name: 'n'.repeat(name), size: 1 }).length
    expect([length(125), length(126), length(1021)]).toEqual([128, 1024, 1024])
    expect(() => length(1022)).toThrow(RangeError)
  })
  it('passes over numbers that are none', () => {
    expect(read('a\x0012 17\0')).toEqual({ name: 'a', size: 12, changedAt: 15_000 })
    expect(read('a\x00x12 17\0')).toEqual({ name: 'a', changedAt: 15_000 })
    expect(read('a\x0012x 17\0')).toEqual({ name: 'a', changedAt: 15_000 })
    expect(read('a\x0012 18\0')).toEqual({ name: 'a', size: 12 })
    expect(read('a\x0012 x17\0')).toEqual({ name: 'a', size: 12 })
    expect(read('a\x00 17\0')).toEqual({ name: 'a', changedAt: 15_000 })
    expect(read('a')).toEqual({ name: 'a' })
    expect(read('')).toBeNull()
  })
})

describe('a batch that is received', () => {
  const receive = async (answers: number[][], more: Partial<BatchForm> = {}) => {
    const taken: [at: number, length: number][] = []
    const line = byHand((_, nth) => answers[nth] ?? [])
    const came = await receiveYmodem(line.port, {
      onFile: () => {},
      onData: (data, at) => void taken.push([at, data.length]),
      ...more,
    }).catch(factsOf)
    return { ...line, came, taken }
  }
  const data = (number: number, length = 128) => blockOf(number, filled(length, number))
  const zero = (text: string, length?: number) => blockOf(0, header(text, length))
  const bye = blockOf(0, filled(128, 0))

  it('is asked for its header, then for its bytes, and ends with an empty header', async () => {
    // Writings: C for the header; its ACK; C for the data; its ACK; NAK and ACK at the end; C for the next header; ACK.
    const { came, written, taken } = await receive([zero('a.bin\x00100'), [], data(1), [EOT], [EOT], [], bye])
    expect(came).toEqual([{ name: 'a.bin', size: 100 }])
    expect(written).toEqual([[C], [ACK], [C], [ACK], [NAK], [ACK], [C], [ACK]])
    expect(taken).toEqual([[0, 100]])
  })
  it('takes of a block what belongs to the file, and of one behind it nothing', async () => {
    const of = async (size: string) =>
      (await receive([zero(`a${size}`), [], data(1), data(2), [EOT], [EOT], [], bye])).taken
    expect(await of('\x00128')).toEqual([[0, 128]])
    expect(await of('\x00129')).toEqual([
      [0, 128],
      [128, 1],
    ])
    // A size that the sender does not say: all of it, padding too.
    expect(await of('')).toEqual([
      [0, 128],
      [128, 128],
    ])
  })
  it('reads a header in a large block, and one with a sum', async () => {
    expect((await receive([zero('a.bin\x000', 1024), [], [EOT], [EOT], [], bye])).came).toEqual([
      { name: 'a.bin', size: 0 },
    ])
    const sum = blockOf(0, header('a.bin\x000'), 'sum')
    const byeSum = blockOf(0, filled(128, 0), 'sum')
    const { came, written } = await receive([[], sum, [], [EOT], [EOT], [], [], byeSum], { crcAskings: 1 })
    expect(came).toEqual([{ name: 'a.bin', size: 0 }])
    expect(written.slice(0, 3)).toEqual([[C], [NAK], [ACK]])
  })
  it('asks again for a header that did not come whole, or is no header', async () => {
    for (const bad of [bye.with(9, 1), data(1), bye.slice(0, -1)]) {
      const { came, written } = await receive([bad, bye])
      expect([came, written]).toEqual([[], [[C], [C], [ACK]]])
    }
  })
  it('asks so often with C and so often with NAK, and gives up', async () => {
    const { came, written, waits } = await receive([], { tries: 2, crcAskings: 2 })
    expect(came).toMatchObject({ kind: 'xmodem-no-sender', place: { offset: 0 } })
    expect(written).toEqual([[C], [C], [NAK], [NAK]])
    expect(waits).toEqual([3000, 3000, 3000, 3000])
    expect((await receive([])).written).toEqual([
      ...filled(4, 0).map(() => [C]),
      ...filled(10, 0).map(() => [NAK]),
    ])
  })
  it('acknowledges an end that is said again', async () => {
    const { came, written } = await receive([[EOT, ...bye]])
    expect([came, written]).toEqual([[], [[C], [ACK], [ACK]]])
  })
  it('passes over noise, and is ended by two CAN in a row', async () => {
    expect((await receive([[0x20, CAN, 0x20, CAN, ...bye]])).came).toEqual([])
    expect((await receive([[CAN, CAN, ...bye]])).came).toMatchObject({ kind: 'xmodem-cancelled' })
  })
  it('is broken off where a file is not wanted', async () => {
    const { came, written, taken } = await receive([zero('a.bin\x00100')], {
      onFile: () => {
        throw new Error('no room for it')
      },
    })
    expect(came).toMatchObject({ message: 'no room for it' })
    expect(written).toEqual([[C], [ACK], [CAN, CAN]])
    expect(taken).toEqual([])
  })
})

describe('a batch that is sent', () => {
  const files = [
    { name: 'a', bytes: new Uint8Array(128).fill(1), changedAt: 8000 },
    { name: 'b', bytes: new Uint8Array(100).fill(2) },
  ]
  const form: SendForm = { blockBytes: 1024, padByte: 0xff }
  const send = async (answer: (nth: number) => number[], more: Partial<SendForm> = {}) => {
    const told: [done: number, total: number, unit: string, retries: number][] = []
    const line = byHand((_, nth) => answer(nth), [C])
    const came = await sendYmodem(line.port, files, {
      ...form,
      report: ({ done, total, unit, retries }) => void told.push([done, total, unit, retries]),
      ...more,
    }).catch(factsOf)
    return { ...line, came, told }
  }
  // A header is answered with ACK and C, a block with ACK, an end with ACK and the C for what follows.
  const good = [[ACK, C], [ACK], [ACK, C], [ACK, C], [ACK], [ACK, C], [ACK]]

  it('announces each file with its size and time, and ends with an empty header', async () => {
    const { came, written, told, waits } = await send((nth) => good[nth]!)
    // Only before its first asking may a unit have printed a text: there the line is listened to once more.
    expect(waits.filter((ms) => ms > 0 && ms < 100)).toHaveLength(1)
    expect(came).toEqual([
      { check: 'crc', blocks: 1, retries: 0 },
      { check: 'crc', blocks: 1, retries: 0 },
    ])
    expect(written).toEqual([
      blockOf(0, header('a\x00128 10')),
      blockOf(1, filled(128, 1)),
      [EOT],
      blockOf(0, header('b\x00100')),
      blockOf(1, [...filled(100, 2), ...filled(28, 0xff)]),
      [EOT],
      blockOf(0, filled(128, 0)),
    ])
    expect(told).toEqual([
      [128, 228, 'bytes', 0],
      [228, 228, 'bytes', 0],
    ])
  })
  it('counts what was sent again over all files, headers too', async () => {
    const answers = [[NAK], [ACK, C], [NAK], [ACK], [ACK, C], [NAK], [ACK, C], [NAK], [ACK], [ACK, C], [ACK]]
    const { told, came } = await send((nth) => answers[nth]!)
    expect(told.map(([, , , retries]) => retries)).toEqual([2, 4])
    expect(came).toMatchObject([{ retries: 1 }, { retries: 1 }])
  })
  it('loses nothing when its goodbye is not answered, but for a receiver that breaks off', async () => {
    expect((await send((nth) => (nth > 5 ? [] : good[nth]!))).came).toHaveLength(2)
    const unasked = await send((nth) => (nth === 5 ? [ACK] : good[nth]!))
    expect(unasked.came).toMatchObject({ kind: 'xmodem-no-start' })
    const broken = await send((nth) => (nth > 5 ? [CAN, CAN] : good[nth]!))
    expect(broken.came).toMatchObject({ kind: 'xmodem-cancelled', place: { offset: 228 } })
  })
  it('waits a minute for each asking where nothing else is said', async () => {
    const { came, waits } = await send(() => [], {})
    expect(came).toMatchObject({ kind: 'xmodem-gave-up' })
    expect(waits[0]).toBe(60_000)
    expect((await send(() => [], { startTimeoutMs: 900 })).waits[0]).toBe(900)
  })
})
