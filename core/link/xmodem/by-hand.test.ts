import { describe, expect, it } from 'vitest'
import { isProblem } from '../../kernel'
import { encodeBlock, receiveXmodem, sendXmodem, type ReceiveForm, type SendForm } from '.'
import { blockOf, byHand, filled } from './hand.test-support'

/* Chuck Forsberg, "XMODEM/YMODEM Protocol Reference", October 14, 1988: the other end answers byte by byte as written there. */

const [SOH, STX, EOT, ACK, NAK, CAN, C] = [0x01, 0x02, 0x04, 0x06, 0x15, 0x18, 0x43]
const factsOf = (error: unknown) => (isProblem(error) ? error.facts : error)

describe('a block', () => {
  it.each([
    ['crc', 128],
    ['crc', 1024],
    ['sum', 128],
  ] as const)('is laid out by %s, %i bytes of data', (check, length) => {
    const data = Array.from({ length }, (_, at) => (at * 7) % 256)
    expect([...encodeBlock(257, Uint8Array.from(data), check)]).toEqual(blockOf(1, data, check))
  })
})

describe('a sender', () => {
  const form: SendForm = { blockBytes: 1024, padByte: 0xff }
  const image = (length: number) => Uint8Array.from({ length }, (_, at) => at % 251)
  /** What a receiver does that takes everything. */
  const taking = () => [ACK]
  const send = async (
    length: number,
    answer: Parameters<typeof byHand>[0],
    more: Partial<SendForm> = {},
    first = [C],
  ) => {
    const line = byHand(answer, first)
    const came = await sendXmodem(line.port, image(length), { ...form, ...more }).catch(factsOf)
    return { ...line, came }
  }

  it('sends large blocks while more than seven small ones are left, the rest in small ones', async () => {
    const heads = async (length: number, more?: Partial<SendForm>, first?: number[]) =>
      (await send(length, taking, more, first)).written.map(([head]) => head)
    expect(await heads(1024)).toEqual([STX, EOT])
    expect(await heads(897)).toEqual([STX, EOT])
    expect(await heads(896)).toEqual([...filled(7, SOH), EOT])
    expect(await heads(1025)).toEqual([STX, SOH, EOT])
    expect(await heads(1024, { blockBytes: 128 })).toEqual([...filled(8, SOH), EOT])
    // A receiver that asks with NAK gets sums and small blocks.
    expect(await heads(1024, {}, [NAK])).toEqual([...filled(8, SOH), EOT])
    expect(await heads(0)).toEqual([EOT])
  })
  it('fills its last block, and numbers from one past 255', async () => {
    const { written } = await send(130, taking)
    const bytes = [...image(130)]
    expect(written).toEqual([
      blockOf(1, bytes.slice(0, 128)),
      blockOf(2, [128, 129, ...filled(126, 0xff)]),
      [EOT],
    ])
    const long = await send(257 * 128, taking, { blockBytes: 128 })
    expect(long.written.slice(254, 257).map((block) => block[1])).toEqual([255, 0, 1])
    expect(long.came).toEqual({ check: 'crc', blocks: 257, retries: 0 })
  })
  it('sends again at NAK, at silence, and at C while the first block was not heard', async () => {
    const again = await send(256, (_, nth) => [[NAK], [], [C], [ACK], [ACK], [ACK]][nth]!)
    expect(again.came).toEqual({ check: 'crc', blocks: 2, retries: 3 })
    expect(again.written.slice(0, 4)).toEqual(filled(4, 0).map(() => again.written[0]))
    // Behind the first block a C is no answer.
    const later = await send(256, (_, nth) => [[ACK], [C, ACK], [ACK]][nth]!)
    expect(later.came).toEqual({ check: 'crc', blocks: 2, retries: 0 })
  })
  it('bears so many silences in a row, and so many tries in all', async () => {
    const silent = await send(128, () => [])
    expect(silent.came).toMatchObject({
      kind: 'xmodem-gave-up',
      says: 'the block was sent 3 times and not acknowledged',
      found: 'silence',
      place: { offset: 0 },
    })
    expect(silent.written.at(-1)).toEqual([CAN, CAN])
    expect(silent.waits.filter((ms) => ms === 20_000)).toHaveLength(3)
    const refused = await send(256, (_, nth) => (nth === 0 ? [ACK] : [NAK]))
    expect(refused.came).toMatchObject({
      kind: 'xmodem-gave-up',
      says: 'the block was sent 10 times and not acknowledged',
      found: 'NAK',
      place: { offset: 128 },
    })
    // An answer between two silences begins their count anew.
    const between = await send(128, (_, nth) => [[], [], [NAK], [], [], [ACK], [ACK]][nth]!)
    expect(between.came).toMatchObject({ retries: 5 })
  })
  it('is told to end by two CAN in a row, and by no other two', async () => {
    expect((await send(256, (_, nth) => (nth === 0 ? [ACK] : [CAN, CAN]))).came).toMatchObject({
      kind: 'xmodem-cancelled',
      place: { offset: 128 },
    })
    expect((await send(128, (_, nth) => (nth === 0 ? [CAN, 0x20, CAN, ACK] : [ACK]))).came).toMatchObject({
      blocks: 1,
    })
    expect((await send(128, taking, {}, [CAN, CAN])).came).toMatchObject({
      kind: 'xmodem-cancelled',
      place: { offset: 0 },
    })
    expect((await send(128, taking, {}, [CAN, 0x20, CAN, C])).came).toMatchObject({ blocks: 1 })
    expect((await send(128, (sent) => (sent[0] === EOT ? [CAN, CAN] : [ACK]))).came).toMatchObject({
      kind: 'xmodem-cancelled',
      place: { offset: 128 },
    })
  })
  it('waits a minute to be asked, and says that nothing was written', async () => {
    const { came, waits, written } = await send(128, taking, {}, [])
    expect(came).toMatchObject({
      kind: 'xmodem-no-start',
      says: 'the receiver did not ask for the first block within 60 s',
      found: 'silence',
    })
    expect([waits, written]).toEqual([[60_000], []])
    expect((await send(128, taking, { startTimeoutMs: 5000 }, [])).waits).toEqual([5000])
  })
  it('says its end until that is acknowledged, ten times', async () => {
    const end = (answers: number[][]) => {
      let ends = 0
      return send(128, (sent) => (sent[0] === EOT ? (answers[ends++] ?? []) : [ACK]))
    }
    const careful = await end([[NAK], [ACK]])
    expect(careful.came).toEqual({ check: 'crc', blocks: 1, retries: 0 })
    expect(careful.written.slice(1)).toEqual([[EOT], [EOT]])
    const silent = await end([])
    expect(silent.came).toMatchObject({
      kind: 'xmodem-gave-up',
      found: 'no acknowledgement of the end',
      place: { offset: 128 },
    })
    expect(silent.written.slice(1)).toEqual(filled(10, 0).map(() => [EOT]))
    expect((await end([...Array<number[]>(9).fill([NAK]), [ACK]])).came).toMatchObject({ blocks: 1 })
  })
  it('stops between two blocks when the person abandons it', async () => {
    const abandon = { raised: false }
    const line = await send(
      512,
      (_, nth) => {
        if (nth === 1) abandon.raised = true
        return [ACK]
      },
      { abandon },
    )
    expect(line.came).toMatchObject({ kind: 'write-abandoned', place: { offset: 256 } })
    expect(line.written).toHaveLength(3)
    expect(line.written.at(-1)).toEqual([CAN, CAN])
  })
  it('reports bytes and not blocks, the last one without its filling', async () => {
    const told: unknown[] = []
    await send(130, (_, nth) => [[NAK], [ACK], [ACK], [ACK]][nth]!, {
      report: ({ done, total, unit, retries }) => void told.push([done, total, unit, retries]),
    })
    expect(told).toEqual([
      [128, 130, 'bytes', 1],
      [130, 130, 'bytes', 1],
    ])
  })
})

describe('a receiver', () => {
  const receive = async (answers: number[][], more: Partial<ReceiveForm> = {}) => {
    const taken: [at: number, first: number, length: number][] = []
    const line = byHand((_, nth) => answers[nth] ?? [])
    const came = await receiveXmodem(line.port, {
      onBlock: (data, at) => void taken.push([at, data[0]!, data.length]),
      ...more,
    }).catch(factsOf)
    return { ...line, came, taken }
  }
  const one = blockOf(1, filled(128, 11))
  const two = blockOf(2, filled(1024, 22))

  it('acknowledges each block, the first end with NAK and the second with ACK', async () => {
    const { came, written, taken } = await receive([one, two, [EOT], [EOT]])
    expect(came).toEqual({ bytes: 1152, blocks: 2, duplicates: 0, check: 'crc' })
    expect(written).toEqual([[C], [ACK], [ACK], [NAK], [ACK]])
    expect(taken).toEqual([
      [0, 11, 128],
      [128, 22, 1024],
    ])
  })
  it('asks four times with C, then with NAK for sums', async () => {
    const sum = blockOf(1, filled(128, 11), 'sum')
    const { came, written, waits } = await receive([[], [], [], [], sum, [EOT], [EOT]])
    expect(came).toMatchObject({ check: 'sum', blocks: 1 })
    expect(written.slice(0, 5)).toEqual([[C], [C], [C], [C], [NAK]])
    // Every three seconds while it asks for CRC, ten seconds after that.
    expect(waits.slice(0, 5)).toEqual([3000, 3000, 3000, 3000, 10_000])
  })
  it('gives up when nobody sends', async () => {
    const { came, written } = await receive([], { tries: 2, crcAskings: 1 })
    expect(came).toMatchObject({
      kind: 'xmodem-no-sender',
      place: { offset: 0 },
      says: 'the sender fell silent',
    })
    expect(written).toEqual([[C], [NAK], [NAK], [NAK]])
    const later = await receive([one], { tries: 2, crcAskings: 1 })
    expect(later.came).toMatchObject({ kind: 'xmodem-no-sender', place: { offset: 128 } })
    expect(later.written).toEqual([[C], [ACK], [NAK], [NAK], [NAK]])
  })
  it.each([
    ['a byte that turned', () => one.with(60, 12)],
    ['a complement that does not hold', () => one.with(2, 0)],
    ['a check that does not hold', () => one.with(-1, one.at(-1)! ^ 1)],
    ['the first byte of its check turned', () => one.with(-2, one.at(-2)! ^ 1)],
    ['a block that broke off', () => one.slice(0, -1)],
  ])('asks again for %s, and takes none of it', async (_, bad) => {
    const { came, taken, written } = await receive([bad(), one, [EOT], [EOT]])
    expect(came).toMatchObject({ blocks: 1, bytes: 128 })
    expect(taken).toEqual([[0, 11, 128]])
    expect(written.slice(0, 3)).toEqual([[C], [C], [ACK]])
  })
  it('takes a block that came twice once, and ends where numbers are out of step', async () => {
    const twice = await receive([one, one, two, [EOT], [EOT]])
    expect(twice.came).toMatchObject({ blocks: 2, duplicates: 1 })
    expect(twice.taken).toHaveLength(2)
    const skipped = await receive([two])
    expect(skipped.came).toMatchObject({
      kind: 'xmodem-out-of-step',
      expected: 'block 1',
      found: 'block 2',
      place: { offset: 0 },
    })
    expect(skipped.written.at(-1)).toEqual([CAN, CAN])
    const ahead = await receive([one, blockOf(3, filled(128, 1))])
    expect(ahead.came).toMatchObject({
      kind: 'xmodem-out-of-step',
      expected: 'block 2',
      place: { offset: 128 },
    })
    // Number 0 belongs to a batch; it is a repeated one only where a header went before.
    expect((await receive([blockOf(0, filled(128, 0))])).came).toMatchObject({ kind: 'xmodem-out-of-step' })
    const header = await receive([blockOf(0, filled(128, 0)), one, [EOT], [EOT]], { headerBefore: true })
    expect(header.came).toMatchObject({ blocks: 1, duplicates: 1 })
    expect(header.written.slice(0, 2)).toEqual([[C], [ACK, C]])
  })
  it('counts block numbers past 255', async () => {
    const many = Array.from({ length: 257 }, (_, at) => blockOf((at + 1) % 256, filled(128, 1)))
    expect((await receive([...many, [EOT], [EOT]])).came).toMatchObject({ blocks: 257, duplicates: 0 })
  })
  it('an end between two blocks was noise', async () => {
    const { came } = await receive([[EOT], one, [EOT], [EOT]])
    expect(came).toMatchObject({ blocks: 1, bytes: 128 })
  })
  it('is ended by two CAN in a row, and cancels where a block cannot be kept', async () => {
    expect((await receive([one, [CAN, CAN]])).came).toMatchObject({
      kind: 'xmodem-cancelled',
      place: { offset: 128 },
    })
    expect((await receive([[CAN, 0x20, CAN], one, [EOT], [EOT]])).came).toMatchObject({ blocks: 1 })
    const full = await receive([one], {
      onBlock: () => {
        throw new Error('the disk is full')
      },
    })
    expect(full.came).toMatchObject({ message: 'the disk is full' })
    expect(full.written).toEqual([[C], [CAN, CAN]])
  })
  it('begins its count of faults anew with each block', async () => {
    const bad = one.with(60, 12)
    const form = { tries: 1, crcAskings: 3 }
    const answers = [bad, bad, one, [], [], [], [], two, [EOT], [EOT]]
    const { came } = await receive(answers, form)
    expect(came).toMatchObject({ blocks: 2 })
  })
})
