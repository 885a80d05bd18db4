import { describe, expect, it } from 'vitest'
import { asciiBytes, isProblem } from '../../kernel'
import type { TimedAnswer, TimedUnit } from '../timed-port.test-support'
import { blockOf, filled } from '../xmodem/hand.test-support'
import { atHand } from './script-bench.test-support'

/*
 * What a script carries whole: the other end answers by hand, each answer so many milliseconds after what it answers.
 * Blocks by Chuck Forsberg, "XMODEM/YMODEM Protocol Reference", October 14, 1988; record lines by the published forms of the
 * hexadecimal object files, written here by hand.
 */

const [SOH, STX, EOT, ACK, NAK, C] = [0x01, 0x02, 0x04, 0x06, 0x15, 0x43]
const says = (text: string, afterMs = 1): TimedAnswer => [[afterMs, [...asciiBytes(text)]]]

interface Form {
  image?: number[]
  /** Bytes to read. */
  reads?: number
  address?: number
  first?: TimedAnswer
  abandonAt?: number
  more?: object | undefined
}

/** Runs steps at a unit that answers by hand; what was written, how far it was told, and with what it ended. */
async function carried(steps: object[], unit: TimedUnit, form: Form = {}) {
  const { image, reads = 0, address = 0x20, first = [], abandonAt, more = {} } = form
  const abandon = { raised: false }
  const name = image ? 'write' : 'read'
  const play: TimedUnit = (bytes, nth) => {
    if (nth + 1 === abandonAt) abandon.raised = true
    return unit(bytes, nth)
  }
  const { driver, written, waits } = atHand({ [name]: { steps } }, play, { more, first })
  const told: number[][] = []
  const into = new Uint8Array(reads)
  const problem = await driver
    .run(name, {
      range: { address, length: image?.length ?? reads },
      ...(image ? { image: Uint8Array.from(image) } : { into }),
      report: ({ done, total, retries }) => void told.push([done, total, retries]),
      abandon,
    })
    .then(
      () => null,
      (error: unknown) => {
        if (isProblem(error)) return error.facts
        throw error
      },
    )
  return {
    written,
    waits,
    told,
    problem,
    bytes: [...into],
    lines: written.map((line) => Buffer.from(line).toString()),
  }
}
const counting = (length: number) => Array.from({ length }, (_, at) => at % 251)
const transfer = (by: string, more: object = {}) => ({ do: 'transfer', by, ...more })
const each = (bytes: number, ...steps: object[]) => ({ do: 'each', of: 'chunk', bytes, steps })

describe('a block transfer', () => {
  const taking: TimedUnit = () => [[1, [ACK]]]
  const asks: TimedAnswer = [[1, [C]]]
  it('has the blocks of its name, filled with ones or with what the profile says', async () => {
    const blocks = async (step: object) =>
      (await carried([step], taking, { image: counting(130), first: asks })).written
    const image = counting(130)
    const second = (fill: number) => [128, 129, ...filled(126, fill)]
    expect(await blocks(transfer('xmodem'))).toEqual([
      blockOf(1, image.slice(0, 128)),
      blockOf(2, second(0xff)),
      [EOT],
    ])
    expect((await blocks(transfer('xmodem', { padByte: 0x1a })))[1]).toEqual(blockOf(2, second(0x1a)))
    const large = await carried([transfer('xmodem-1k')], taking, { image: counting(1024), first: asks })
    expect(large.written.map(([head]) => head)).toEqual([STX, EOT])
    const small = await carried([transfer('xmodem')], taking, { image: counting(1024), first: asks })
    expect(small.written.map(([head]) => head)).toEqual([...filled(8, SOH), EOT])
  })
  it('tells how far all of it is, and what was sent again, piece after piece', async () => {
    // The receiver asks for each piece; the second block is refused once.
    const unit: TimedUnit = ([head], nth) =>
      head === EOT
        ? [
            [1, [ACK]],
            [50, [C]],
          ]
        : [[1, [nth === 1 ? NAK : ACK]]]
    const { told, problem } = await carried([each(256, transfer('xmodem'))], unit, {
      image: counting(512),
      first: asks,
    })
    expect(problem).toBeNull()
    expect(told.map(([done, total]) => [done, total])).toEqual(
      [128, 256, 256, 384, 512, 512].map((done) => [done, 512]),
    )
    expect(told.map(([, , retries]) => retries)).toEqual([0, 1, 1, 1, 1, 1])
  })
  it('waits as long for the first asking as the profile says, a minute where it says nothing', async () => {
    const longest = async (more: object) => {
      const { waits, problem } = await carried([transfer('xmodem', more)], () => [], { image: counting(10) })
      expect(problem).not.toBeNull()
      return Math.max(...waits)
    }
    expect(await longest({ withinMs: 700 })).toBe(700)
    expect(await longest({})).toBe(60_000)
  })
  it('is broken off between two blocks where it is abandoned', async () => {
    const { problem, written } = await carried([transfer('xmodem')], taking, {
      image: counting(1000),
      first: asks,
      abandonAt: 3,
    })
    expect(problem).toMatchObject({ kind: 'write-abandoned', place: { offset: 384 } })
    expect(written.filter(([head]) => head === SOH)).toHaveLength(3)
  })
  it('with a name has that of the profile, its slots filled', async () => {
    const unit: TimedUnit = ([head]) =>
      head === EOT
        ? [
            [1, [ACK]],
            [2, [C]],
          ]
        : [
            [1, [ACK]],
            [2, [C]],
          ]
    const name = async (more: object) => {
      const { written } = await carried([transfer('ymodem', more)], unit, {
        image: counting(10),
        first: asks,
      })
      const [head, number, , ...data] = written[0]!
      expect([head, number]).toEqual([SOH, 0])
      return Buffer.from(data.slice(0, data.indexOf(0))).toString()
    }
    expect(await name({})).toBe('image.bin')
    expect(await name({ fileName: 'fw-{address:hex}.bin' })).toBe('fw-20.bin')
  })
})

describe('bytes as they are', () => {
  it('go out in parts of 1 024, and are told part by part', async () => {
    const { written, told } = await carried([transfer('plain')], () => [], { image: counting(2100) })
    expect(written).toEqual([
      counting(2100).slice(0, 1024),
      counting(2100).slice(1024, 2048),
      counting(2100).slice(2048),
    ])
    expect(told).toEqual([1024, 2048, 2100].map((done) => [done, 2100, 0]))
  })
  it('are broken off between two parts, with what is over by then', async () => {
    const { written, problem } = await carried([each(1500, transfer('plain'))], () => [], {
      image: counting(3000),
      abandonAt: 3,
    })
    expect(written).toHaveLength(3)
    expect(problem).toMatchObject({ kind: 'write-abandoned', place: { offset: 1500 + 1024 } })
  })
  it('are taken in until the piece is full; what follows is the next step’s', async () => {
    const steps = [
      { do: 'send', text: 'give {length}\r' },
      transfer('plain', { withinMs: 100 }),
      { do: 'expect', patterns: [{ text: 'end' }], withinMs: 100 },
    ]
    // In two parts, the second with the word that ends it.
    const unit: TimedUnit = () => [
      [20, counting(40)],
      [80, [...counting(64).slice(40), ...asciiBytes('end')]],
    ]
    const { bytes, problem } = await carried([each(64, ...steps)], unit, { reads: 128 })
    expect(problem).toBeNull()
    expect(bytes).toEqual([...counting(64), ...counting(64)])
  })
  // 115 200 baud, ten bits a byte: 64 bytes take 5.6 ms of the line.
  it.each([
    [104, null],
    [107, 'no-answer'],
  ])(
    'that lie there %i ms after they were asked end with %s, where 100 ms beside the line are allowed',
    async (ms, kind) => {
      const steps = [{ do: 'send', text: 'give\r' }, transfer('plain', { withinMs: 100 })]
      const { problem } = await carried(steps, () => [[ms, counting(64)]], { reads: 64 })
      expect(problem?.kind ?? null).toBe(kind)
    },
  )
  it('that stop before the piece is full are named, a second where the profile says nothing', async () => {
    const steps = [{ do: 'send', text: 'give\r' }, transfer('plain')]
    const come = (afterMs: number) =>
      carried(
        steps,
        () => [
          [1, counting(40)],
          [afterMs, counting(24)],
        ],
        { reads: 64 },
      )
    expect((await come(1000)).problem).toBeNull()
    expect((await come(1010)).problem).toMatchObject({ kind: 'no-answer', expected: '64 bytes, and 40 came' })
  })
  it('come by a block transfer too, without what only fills its last block', async () => {
    const unit: TimedUnit = ([head], nth) =>
      head === C
        ? [[1, blockOf(1, counting(128))]]
        : nth === 1
          ? [[1, blockOf(2, [...counting(130).slice(128), ...filled(126, 0x1a)])]]
          : nth < 4
            ? [[1, [EOT]]]
            : []
    const { bytes, told, problem, written } = await carried([transfer('xmodem')], unit, { reads: 130 })
    expect(problem).toBeNull()
    expect(bytes).toEqual(counting(130))
    expect(told).toEqual([
      [128, 130, 0],
      [130, 130, 0],
    ])
    // The first end is asked for once more.
    expect(written).toEqual([[C], [ACK], [ACK], [NAK], [ACK]])
  })
})

/** A record of the hexadecimal object file: two's complement of the sum of its bytes. */
const hexLine = (at: number, type: number, data: number[]) => {
  const bytes = [data.length, at >> 8, at & 255, type, ...data]
  const sum = (256 - (bytes.reduce((total, byte) => total + byte, 0) & 255)) & 255
  return `:${Buffer.from([...bytes, sum])
    .toString('hex')
    .toUpperCase()}`
}
/** A record with S: ones' complement of the sum of count, address and data. */
const sLine = (type: number, at: number[], data: number[]) => {
  const bytes = [at.length + data.length + 1, ...at, ...data]
  const sum = 255 - (bytes.reduce((total, byte) => total + byte, 0) & 255)
  return `S${type}${Buffer.from([...bytes, sum])
    .toString('hex')
    .toUpperCase()}`
}

describe('record lines', () => {
  const image = counting(20)
  const answer = [
    { text: '.\n' },
    { text: '!b\n', means: 'again' },
    { text: '!r {reason}\n', means: 'refused' },
  ]
  const good: TimedUnit = () => says('.\n')
  it('are sixteen bytes each with both line ends, or as the profile says', async () => {
    const ihex = await carried([transfer('ihex-lines')], () => [], { image })
    expect(ihex.lines).toEqual(
      [hexLine(0x20, 0, image.slice(0, 16)), hexLine(0x30, 0, image.slice(16)), ':00000001FF'].map(
        (line) => `${line}\r\n`,
      ),
    )
    const short = await carried([transfer('ihex-lines', { recordBytes: 8, lineEnd: '\r' })], () => [], {
      image,
    })
    expect(short.lines).toEqual(
      [
        hexLine(0x20, 0, image.slice(0, 8)),
        hexLine(0x28, 0, image.slice(8, 16)),
        hexLine(0x30, 0, image.slice(16)),
        ':00000001FF',
      ].map((line) => `${line}\r`),
    )
    const srec = await carried([transfer('srec-lines', { recordBytes: 10, lineEnd: '\n' })], () => [], {
      image,
    })
    expect(srec.lines.slice(1)).toEqual(
      [
        sLine(1, [0, 0x20], image.slice(0, 10)),
        sLine(1, [0, 0x2a], image.slice(10)),
        sLine(5, [0, 2], []),
        sLine(9, [0, 0], []),
      ].map((line) => `${line}\n`),
    )
  })
  // Source: both forms carry addresses beyond 64 KiB: a line of its own there, three or four bytes here.
  it.each([
    ['ihex-lines', 0x1fff8, [0, 8, 8, 20, 20]],
    ['srec-lines', 0x1fff8, [0, 16, 20, 20, 20]],
    ['srec-lines', 0x0100_0000, [0, 16, 20, 20, 20]],
    ['srec-lines', 0x20, [0, 16, 20, 20, 20]],
  ])('of %s from %i count their data, and none of what stands around it', async (by, address, done) => {
    const { told } = await carried([transfer(by, { answer })], good, { image, address })
    expect(told).toEqual(done.map((each) => [each, 20, 0]))
  })
  it('count from where their piece begins', async () => {
    const { told } = await carried([each(10, transfer('ihex-lines', { answer }))], good, { image })
    expect(told.map(([done]) => done)).toEqual([10, 10, 10, 20, 20, 20])
  })
  it('wait for the answer to each line before the next goes out', async () => {
    const { written, problem } = await carried(
      [transfer('ihex-lines', { answer, withinMs: 50 })],
      (_, nth) => (nth === 0 ? says('.\n') : []),
      { image },
    )
    expect(problem).toMatchObject({ kind: 'no-answer', expected: expect.stringContaining('.') })
    // The first line, and the second as often as a line is tried.
    expect(written).toHaveLength(4)
  })
  it('that are refused for now go out again, as often as the profile says, and no other', async () => {
    const { lines, told, problem } = await carried(
      [transfer('ihex-lines', { answer })],
      (_, nth) => says(nth === 1 || nth === 2 ? '!b\n' : '.\n'),
      { image },
    )
    expect(problem).toBeNull()
    const [first, second, end] = [lines[0], lines[1], ':00000001FF\r\n']
    expect(lines).toEqual([first, second, second, second, end])
    expect(told).toEqual([
      [16, 20, 0],
      [20, 20, 2],
      [20, 20, 2],
    ])
    const never = async (more?: object) =>
      (await carried([transfer('ihex-lines', { answer })], () => says('!b\n'), { image, more })).problem
    expect(await never()).toMatchObject({ kind: 'unit-refused-for-now' })
    const times = async (more?: object) =>
      (await carried([transfer('ihex-lines', { answer })], () => says('!b\n'), { image, more })).written
        .length
    expect(await times()).toBe(3)
    expect(await times({ writeTries: 1 })).toBe(1)
  })
  it('that are refused for good end it at that line, with the reason', async () => {
    const { written, problem } = await carried(
      [transfer('ihex-lines', { answer })],
      (_, nth) => says(nth === 1 ? '!r protected\n' : '.\n'),
      { image },
    )
    expect(written).toHaveLength(2)
    expect(problem).toMatchObject({ kind: 'unit-refused', found: 'protected' })
  })
  it('are broken off between two lines', async () => {
    const { written, problem } = await carried([each(20, transfer('ihex-lines', { answer }))], good, {
      image: counting(40),
      abandonAt: 4,
    })
    expect(written).toHaveLength(4)
    expect(problem).toMatchObject({ kind: 'write-abandoned', place: { offset: 36 } })
  })
})

// An answer that comes late is that to what was sent before. Taken for the next one's, each later piece would be believed
// unseen, and a refusal of the last would be heard by nobody.
describe('an answer that comes after its time is not taken for that to the next', () => {
  const unit =
    (yes: number[], no: number[]): TimedUnit =>
    (_, nth) =>
      nth === 1 ? [[120, yes]] : [[60, nth === 3 ? no : yes]]
  const image = counting(40)
  const text = (word: string) => [...asciiBytes(word)]
  const patterns = [{ text: 'ok\n' }, { text: 'no {reason}\n', means: 'refused' }]
  const frame = {
    layout: 'A5 {length:u8} {payload} {checksum:u8}',
    escape: 'none',
    checksum: 'sum8',
    maxPayload: 80,
  }
  const framed = (...payload: number[]) => {
    const bytes = [0xa5, payload.length, ...payload]
    return [...bytes, bytes.reduce((total, byte) => total + byte, 0) & 255]
  }
  it.each([
    [
      'record lines',
      [transfer('ihex-lines', { recordBytes: 20, answer: patterns, withinMs: 100 })],
      unit(text('ok\n'), text('no lost\n')),
      {},
    ],
    [
      'pieces that the profile lets go out twice',
      [
        each(20, { do: 'send', bytes: '01 {data}' }, { do: 'expect', patterns, withinMs: 100 }),
        { do: 'send', text: 'end\r' },
        { do: 'expect', patterns, withinMs: 100 },
      ],
      unit(text('ok\n'), text('no lost\n')),
      { writeTries: 3 },
    ],
    [
      'frames',
      ['01 {data}', '02', '03'].map((bytes) => ({
        do: 'frame',
        bytes,
        answer: [{ bytes: '06' }, { bytes: '15 {reason:u8}', means: 'refused' }],
        withinMs: 100,
      })),
      unit(framed(0x06), framed(0x15, 0x07)),
      { frame },
    ],
  ])('of %s', async (_what, steps, play, more) => {
    const { written, problem } = await carried(steps, play, { image, more })
    // The second, once more after its late answer, and the third, which is refused.
    expect(written).toHaveLength(4)
    expect(written[2]).toEqual(written[1])
    expect(written[3]).not.toEqual(written[2])
    expect(problem).toMatchObject({ kind: 'unit-refused' })
  })
})
