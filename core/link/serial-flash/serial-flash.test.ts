import { dapAdapterDevice, flashChip, flashTable, usbDevice, type FlashChipForm } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bytesOfHex, virtualClock, type Clock } from '../../kernel'
import { caught, noise, writeUnderFaults } from '../faulted.test-support'
import { openSpiPort, type SpiPort } from '../spi'
import { dapAdapter } from '../swd'
import { flashLoader, planErase, readFlashTable, usualEraseMs, type EraseType, type FlashSettings } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const tableOf = (bytes: Uint8Array) =>
  readFlashTable(async (at, length) => bytes.slice(at, at + length), 'chip')

describe('a chip’s own table', () => {
  /*
   * Source: JESD216, 6.4: header "SFDP", one parameter header, nine words. The words are those that data sheets of the
   * standard's first edition print for a part of 8 Mbit with 4 KiB sectors (from memory of such sheets).
   */
  const firstEdition = bytesOfHex(
    '53464450' +
      '000100ff' +
      '00000109' +
      '300000ff' +
      'ff'.repeat(0x20) +
      'e520f1ff' +
      'ffff7f00' +
      '44eb086b' +
      '083b42bb' +
      'feffffff' +
      'ffff0000' +
      'ffff40eb' +
      '0c200f52' +
      '10d800ff',
  )
  it('of the first edition gives size, blocks and their commands', async () => {
    // 0x007FFFFF and one are 8 Mbit; 0C 20, 0F 52, 10 D8 are 4, 32 and 64 KiB.
    expect(await tableOf(firstEdition)).toMatchObject({
      revision: '1.0',
      bytes: 1_048_576,
      addressing: 'three',
      eraseTypes: [
        { bytes: 4096, command: 0x20, usualMs: null, maxMs: null },
        { bytes: 32_768, command: 0x52, usualMs: null, maxMs: null },
        { bytes: 65_536, command: 0xd8, usualMs: null, maxMs: null },
      ],
      pageBytes: 256,
      fourByte: null,
      statusBytes: 1,
    })
  })
  /** The first edition's words, and those up to the sixteenth, which a later edition has. */
  const later = (words: Readonly<Record<number, number>>, four?: [number, number]) => {
    const table = new Uint8Array(0x100).fill(0xff)
    table.set(firstEdition)
    table.set([6, 1, four ? 1 : 0], 4)
    table.set([0x00, 6, 1, 16], 8)
    const view = new DataView(table.buffer)
    for (let word = 10; word <= 16; word++) view.setUint32(0x30 + (word - 1) * 4, words[word] ?? 0, true)
    if (words[2] !== undefined) view.setUint32(0x34, words[2], true)
    if (words[1] !== undefined) view.setUint32(0x30, words[1], true)
    if (four) {
      table.set([0x84, 0, 1, 2, 0x80, 0, 0, 0xff], 16)
      view.setUint32(0x80, four[0], true)
      view.setUint32(0x84, four[1], true)
    }
    return table
  }
  // Source: JESD216, words 10 and 11, worked by hand. Word 10: longest 2 × (2 + 1); type 1 (2 + 1) × 16 ms, type 2 (6 + 1) ×
  // 16, type 3 (1 + 1) × 128. Word 11: page 2^8, (10 + 1) × 64 µs, longest 2 × (1 + 1).
  it('of a later edition gives times, usual and longest', async () => {
    const word10 = 2 | (2 << 4) | (1 << 9) | (6 << 11) | (1 << 16) | (1 << 18) | (2 << 23)
    const word11 = 1 | (8 << 4) | (10 << 8) | (1 << 13)
    const table = await tableOf(later({ 10: word10, 11: word11 }))
    expect(table).toMatchObject({ revision: '1.6', pageBytes: 256 })
    expect(table!.eraseTypes.map(({ usualMs, maxMs }) => [usualMs, maxMs])).toEqual([
      [48, 288],
      [112, 672],
      [256, 1536],
    ])
    expect(table!.program.usualMs).toBeCloseTo(0.704)
    expect(table!.program.maxMs).toBeCloseTo(2.816)
  })
  // Source: JESD216, word 2: with the highest bit set the rest is a power of two. 2^31 bits are 256 MiB.
  it('gives a size beyond 2 Gbit as a power of two', async () => {
    expect((await tableOf(later({ 2: 0x8000001f })))!.bytes).toBe(2 ** 28)
  })
  // Source: JESD216, word 1 bits 17 and 18, word 16 bits 24 to 31, table FF84.
  it('says how four address bytes are reached', async () => {
    const reach = async (...form: Parameters<typeof later>) => (await tableOf(later(...form)))!.fourByte
    expect(await reach({ 16: 0x01000000 })).toBe('enter')
    expect(await reach({ 16: 0x02000000 })).toBe('enable-and-enter')
    expect(await reach({ 16: 0x40000000 })).toBe('always')
    expect(await reach({ 16: 0x20000000 })).toBe('commands')
    expect(await reach({ 1: 0xfff120e5 | (2 << 17) })).toBe('always')
    const four = await tableOf(later({ 16: 0x01000000 }, [0x41 | (7 << 9), 0xffdc5c21]))
    expect(four!.fourByte).toBe('commands')
    expect([...four!.fourByteErase]).toEqual([
      [0x20, 0x21],
      [0x52, 0x5c],
      [0xd8, 0xdc],
    ])
  })
  // Source: JESD216, word 15 bits 20 to 22: with 001 one written byte of status clears the second.
  it('says when both bytes of status are written', async () => {
    const count = async (quad: number) => (await tableOf(later({ 15: quad << 20 })))!.statusBytes
    expect([await count(0), await count(1), await count(4), await count(5)]).toEqual([1, 2, 1, 2])
  })
  it('is none where its mark is not there', async () => {
    expect(await tableOf(new Uint8Array(256).fill(0xff))).toBeNull()
  })
  it.each<[string, (table: Uint8Array) => void, RegExp]>([
    ['a size that is no whole byte', (table) => table.set([0xfe, 0xff, 0x7f, 0x00], 0x34), /size would be/],
    ['a block larger than the chip', (table) => table.set([0x1c], 0x4c), /2\^28/],
    [
      'no block at all',
      (table) => {
        table.set([0x00], 0x30)
        table.fill(0, 0x4c, 0x54)
      },
      /no block/,
    ],
    ['a table outside its space', (table) => table.set([0x00, 0x00, 0xff], 0x0c), /lies at/],
    ['a basic table that is short', (table) => table.set([4], 0x0b), /short/],
    ['address bytes that there are not', (table) => table.set([0xf7], 0x32), /address bytes/],
  ])('that is damaged is named: %s', async (_, bend, found) => {
    const table = firstEdition.slice()
    bend(table)
    const problem = await caught(tableOf(table))
    expect(problem.facts).toMatchObject({
      kind: 'flash-table',
      place: { offset: expect.any(Number) as number },
    })
    expect(problem.facts.found).toMatch(found)
  })
})

describe('which blocks are erased', () => {
  const types: EraseType[] = [
    { bytes: 4096, command: 0x20, usualMs: 45, maxMs: 400 },
    { bytes: 32_768, command: 0x52, usualMs: 120, maxMs: 1600 },
    { bytes: 65_536, command: 0xd8, usualMs: 150, maxMs: 2000 },
  ]
  // Worked by hand: 0x1000 to 0x23FFF. Seven sectors to 0x8000 cost 315 ms, 32 KiB at 0x8000 120, 64 KiB at 0x10000 150, four
  // sectors 180.
  it('are the large ones inside and the small ones at the edges', () => {
    const blocks = planErase({ address: 0x1000, length: 0x23000 }, types)
    expect(blocks.map(({ address, bytes }) => [address, bytes / 4096])).toEqual([
      ...[1, 2, 3, 4, 5, 6, 7].map((sector) => [sector * 0x1000, 1]),
      [0x8000, 8],
      [0x10000, 16],
      ...[0x20, 0x21, 0x22, 0x23].map((sector) => [sector * 0x1000, 1]),
    ])
  })
  it('are small ones where large ones are slow', () => {
    const slow = types.map((type) => (type.bytes === 4096 ? type : { ...type, usualMs: 5000 }))
    expect(planErase({ address: 0, length: 0x20000 }, slow).every(({ bytes }) => bytes === 4096)).toBe(true)
  })
  it('cover the range, lie side by side, and begin at multiples of their size', () => {
    fc.assert(
      fc.property(fc.nat(0x80000), fc.integer({ min: 1, max: 0x60000 }), (address, length) => {
        const blocks = planErase({ address, length }, types)
        expect(blocks[0]!.address).toBe(address - (address % 4096))
        const last = blocks.at(-1)!
        expect(last.address + last.bytes).toBe(Math.ceil((address + length) / 4096) * 4096)
        blocks.forEach((block, index) => {
          expect(block.address % block.bytes).toBe(0)
          if (index > 0) expect(block.address).toBe(blocks[index - 1]!.address + blocks[index - 1]!.bytes)
        })
        // Never slower than sector by sector.
        const time = blocks.reduce((sum, block) => sum + usualEraseMs(block), 0)
        expect(time).toBeLessThanOrEqual(45 * Math.ceil(((address % 4096) + length) / 4096))
      }),
      { numRuns: 100 },
    )
  })
  it('are none for nothing', () => {
    expect(planErase({ address: 0, length: 0 }, types)).toEqual([])
  })
})

const size = 0x20000
const erases = [
  { bytes: 4096, command: 0x20, ms: 45 },
  { bytes: 32_768, command: 0x52, ms: 120 },
  { bytes: 65_536, command: 0xd8, ms: 150 },
]
const sheet: FlashSettings = {
  bytes: size,
  pageBytes: 256,
  programMs: 0.7,
  eraseTypes: [{ bytes: 4096, command: 0x20, usualMs: null, maxMs: null }],
  believeTable: true,
  base: 0,
  regions: [{ address: 0, length: size }],
  erasedByte: 0xff,
  holdsReset: false,
}
async function bench(
  form: Partial<FlashChipForm> = {},
  settings: Partial<FlashSettings> = {},
  version: 1 | 2 = 2,
  over: (port: SpiPort, clock: Clock) => SpiPort = (port) => port,
) {
  const clock = virtualClock(turn)
  const bytes = form.bytes ?? noise(size, 99)
  const own = erases.filter((block) => block.bytes <= bytes.length)
  const chip = flashChip({
    clock,
    bytes,
    identity: [0x5d, 0x40, 0x14],
    table: flashTable({ bytes: bytes.length, pageBytes: 256, programMs: 0.7, erases: own }),
    pageBytes: 256,
    programMs: 0.7,
    erases: own,
    ...form,
  })
  const device = dapAdapterDevice({ clock, ends: { lines: chip }, version, serial: '1' })
  const usb = usbDevice({ name: 'clip', clock, now: () => device })
  await usb.open()
  const told: string[] = []
  const loader = flashLoader(
    'clip',
    async () => over(await openSpiPort(await dapAdapter(usb), { hertz: 1_000_000 }), clock),
    clock,
    { ...sheet, ...settings },
    async (says) => void told.push(says),
  )
  return { clock, bytes, chip, usb, loader, told }
}
const calm = { raised: false }
const quiet = () => {}

describe('a chip on a clip', () => {
  it.each([1, 2] as const)(
    'is written and read back byte by byte, over an adapter of version %i',
    async (version) => {
      const { loader, bytes, told } = await bench({}, {}, version)
      const image = noise(0x2345)
      await loader.attach()
      await loader.erase({ address: 0x1000, length: image.length }, quiet)
      await loader.write(0x1000, image, quiet, calm)
      expect(await loader.verify(0x1000, image)).toMatchObject({ outcome: 'equal-read-back' })
      expect(bytes.subarray(0x1000, 0x1000 + image.length)).toEqual(image)
      // What lies before and after the erased sectors stands as it stood.
      const before = noise(size, 99)
      expect(bytes.subarray(0, 0x1000)).toEqual(before.subarray(0, 0x1000))
      expect(bytes.subarray(0x4000)).toEqual(before.subarray(0x4000))
      expect(told[0]).toMatch(/131.072 bytes.*JESD216, revision 1\.6/)
    },
  )
  it('is told apart from the profile, and believed over it', async () => {
    const { loader, told } = await bench({}, { bytes: 0x10000, pageBytes: 128 })
    await loader.attach()
    expect(told.at(-1)).toMatch(
      /profile says 64.KiB of memory and pages of 128; the chip’s own table is believed/,
    )
  })
  it('is taken by its sheet where it has no table', async () => {
    const { loader, told } = await bench({ table: new Uint8Array(0) })
    await loader.attach()
    expect(loader.chip()).toMatchObject({ table: null, bytes: size, pageBytes: 256 })
    expect(told).toEqual(['The chip has no table of parameters; its sheet in the profile is taken.'])
  })
  it('is found different when one byte of it is', async () => {
    const { loader, bytes } = await bench()
    await loader.attach()
    const image = bytes.slice(0x100, 0x300)
    image[0x1ff]! ^= 1
    expect(await loader.verify(0x100, image)).toMatchObject({
      outcome: 'different',
      found: 'the first difference at 0x000002FF',
    })
  })
})

describe('only what differs', () => {
  const written = async (changed: number[]) => {
    const { loader, bytes, clock } = await bench()
    const image = bytes.slice(0x1000, 0x1000 + 0x5800)
    for (const at of changed) image[at]! ^= 0x10
    await loader.attach()
    const from = clock.now()
    const erased: number[] = []
    const range = { address: 0x1000, length: image.length }
    await loader.erase(range, ({ done }) => void erased.push(done), image)
    await loader.write(0x1000, image, quiet, calm)
    expect(await loader.verify(0x1000, image)).toMatchObject({ outcome: 'equal-read-back' })
    expect(bytes.subarray(0x1000, 0x1000 + image.length)).toEqual(image)
    return { erased, ms: clock.now() - from }
  }
  it('is erased and written, block by block', async () => {
    // The second block and the last, which the image fills half.
    expect((await written([0x1003, 0x57ff])).erased).toEqual([1, 2])
    expect((await written([0])).erased).toEqual([1])
  })
  it('is nothing where all of it is there', async () => {
    const { loader, bytes } = await bench()
    await loader.attach()
    const before = bytes.slice()
    await loader.erase({ address: 0, length: 0x3000 }, quiet, bytes.slice(0, 0x3000))
    expect(bytes).toEqual(before)
  })
  it('is forgotten with the next erase of all of it', async () => {
    const { loader, bytes } = await bench()
    await loader.attach()
    const image = bytes.slice(0, 0x2000)
    await loader.erase({ address: 0, length: 0x2000 }, quiet, image)
    await loader.erase({ address: 0, length: 0x2000 }, quiet)
    await loader.write(0, image, quiet, calm)
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-read-back' })
  })
})

describe('nothing is erased over a clip with bad contact', () => {
  const refusedWith = async (form: Partial<FlashChipForm>, settings: Partial<FlashSettings> = {}) => {
    const { loader, bytes } = await bench(form, settings)
    const before = bytes.slice()
    const problem = await caught(loader.attach())
    await caught(loader.erase({ address: 0, length: 4096 }, quiet))
    expect(bytes).toEqual(before)
    return problem.facts
  }
  it('that gives all ones: it asks for another entry', async () => {
    const facts = await refusedWith({ wire: (bit, way) => (way === 'out' ? true : bit) })
    expect(facts).toMatchObject({ kind: 'no-bootloader', found: expect.stringMatching(/reads 1/) as string })
  })
  it('that gives all zeros', async () => {
    const facts = await refusedWith({ wire: (bit, way) => (way === 'out' ? false : bit) })
    expect(facts).toMatchObject({ kind: 'no-bootloader', found: expect.stringMatching(/reads 0/) as string })
  })
  it('that gives an identity which differs from one time to the next', async () => {
    let turns = 0
    const facts = await refusedWith({
      wire: (bit, way) => (way === 'out' && ++turns % 41 === 0 ? !bit : bit),
    })
    expect(facts).toMatchObject({
      kind: 'flash-contact',
      found: expect.stringMatching(/identity reads/) as string,
    })
  })
  // Source: JEP106: the maker's byte carries odd parity, so one bit that always sticks is seen.
  it('that always loses the same bit of the identity', async () => {
    const facts = await refusedWith({ identity: [0x5c, 0x40, 0x14] })
    expect(facts).toMatchObject({ kind: 'flash-contact', found: expect.stringMatching(/parity/) as string })
  })
  it('whose memory reads differently each time though its identity is steady', async () => {
    let turns = 0
    const facts = await refusedWith({
      // The identity, eight times of 33 clocks, is over before the contact gives way.
      wire: (bit, way) => (way === 'out' && ++turns > 400 && turns % 97 === 0 ? !bit : bit),
    })
    expect(facts).toMatchObject({
      kind: 'flash-contact',
      found: expect.stringMatching(/reads differently/) as string,
    })
  })
  it('where the board runs and talks to the chip itself, until its reset is held', async () => {
    expect((await refusedWith({ board: true })).kind).toBe('flash-contact')
    const { loader } = await bench({ board: true }, { holdsReset: true })
    await loader.attach()
    expect(loader.chip()?.identity).toBe('5D4014')
  })
  it('where another chip is on it than the profile names', async () => {
    expect(await refusedWith({}, { identities: ['5D4015'] })).toMatchObject({
      kind: 'flash-other-chip',
      expected: '5D4015',
      found: '5D4014',
    })
  })
  it('where its table is damaged the same way each time', async () => {
    const table = flashTable({ bytes: size, pageBytes: 256, programMs: 0.7, erases })
    table.set([0xfe, 0xff, 0x0f, 0x00], 0x34)
    expect((await refusedWith({ table })).kind).toBe('flash-table')
    const { loader } = await bench({ table }, { believeTable: false })
    await loader.attach()
    expect(loader.chip()?.bytes).toBe(size)
  })
})

describe('a chip is not written', () => {
  const act = async (
    form: Partial<FlashChipForm>,
    settings: Partial<FlashSettings>,
    range: { address: number; length: number },
  ) => {
    const { loader, bytes, chip, told } = await bench(form, settings)
    const before = bytes.slice()
    await loader.attach()
    const problem = await caught(loader.erase(range, quiet))
    expect(bytes).toEqual(before)
    return { facts: problem.facts, chip, told }
  }
  it('where the image does not fit into it, and the last byte that does is taken', async () => {
    const { facts } = await act({}, {}, { address: size - 4096, length: 4097 })
    expect(facts).toMatchObject({ kind: 'flash-too-small', found: '0x0001F000 to 0x00020001' })
    const { loader } = await bench()
    await loader.erase({ address: size - 4096, length: 4096 }, quiet)
  })
  it('where its smallest block takes more than the program', async () => {
    const { facts } = await act(
      {},
      { regions: [{ address: 0, length: 0x1800 }] },
      { address: 0, length: 0x1800 },
    )
    expect(facts).toMatchObject({ kind: 'flash-edge', place: { at: '0x00001000' } })
  })
  it('where its write-protect leg keeps its protection', async () => {
    const { facts } = await act({ status: 0x9c, statusHeld: true }, {}, { address: 0, length: 4096 })
    expect(facts).toMatchObject({ kind: 'flash-protected', found: 'status 0x9C' })
  })
  it('and not because the computer stood still while the chip was rightly busy', async () => {
    let late = 0
    // A chip that takes a little longer than its table says is usual.
    const slow = { programMs: 4, erases: erases.map((each) => ({ ...each, ms: each.ms + 9 })) }
    const { loader, bytes } = await bench(slow, {}, 2, (port, clock) => ({
      ...port,
      // What the chip said in time comes a minute later, once for the erase and once for a page.
      async exchange(acts) {
        const seen = await port.exchange(acts)
        const last = seen.at(-1)?.at(-1) ?? 0
        if (late < 2 && acts.length === 1 && seen[0]?.length === 4 && last & 1) {
          late++
          await clock.sleep(60_000)
        }
        return seen
      },
    }))
    await loader.attach()
    const image = noise(0x300)
    await loader.erase({ address: 0, length: image.length }, quiet)
    await loader.write(0, image, quiet, calm)
    expect(late).toBe(2)
    expect(bytes.subarray(0, image.length)).toEqual(image)
  })
  it('where it stays busy for ever', async () => {
    const { loader } = await bench({ busyForEver: true })
    await loader.attach()
    const problem = await caught(loader.erase({ address: 0, length: 4096 }, quiet))
    expect(problem.facts).toMatchObject({
      kind: 'flash-busy',
      says: expect.stringMatching(/erase/) as string,
    })
  })
})

it('a chip that protects itself is opened for the write, told, and shut again after it', async () => {
  const { loader, chip, told, bytes } = await bench({ status: 0x0c })
  await loader.attach()
  const image = noise(600)
  await loader.erase({ address: 0, length: image.length }, quiet)
  expect(chip.status() & 0x1c).toBe(0)
  await loader.write(0, image, quiet, calm)
  expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-read-back' })
  await loader.startApplication()
  expect(chip.status() & 0x1c).toBe(0x0c)
  expect(told.at(-1)).toMatch(/protection.*0x0C.*put back/)
  expect(bytes.subarray(0, 600)).toEqual(image)
})

it('a chip whose write broke off has its protection back when it is let go', async () => {
  const { loader, chip } = await bench({ status: 0x0c })
  await loader.attach()
  await loader.erase({ address: 0, length: 4096 }, quiet)
  expect(chip.status() & 0x1c).toBe(0)
  await loader.release()
  expect(chip.status() & 0x1c).toBe(0x0c)
})

it('a chip that is let go with its clip off is let go all the same', async () => {
  let off = false
  const { loader } = await bench({ status: 0x0c, wire: (bit, way) => (off && way === 'out' ? true : bit) })
  await loader.attach()
  await loader.erase({ address: 0, length: 4096 }, quiet)
  off = true
  await loader.release()
  expect(loader.chip()).toBeNull()
})

// Source: JESD216: three address bytes reach 16 MiB. The chip is looked at, not written: one more bit in an address is enough.
it('a chip above 16 MiB is addressed with four bytes, and refused where it does not say how', async () => {
  const large = new Uint8Array(2 ** 25).fill(0xff)
  large.set([1, 2, 3, 4], 2 ** 24 + 0x100)
  const table = flashTable({ bytes: large.length, pageBytes: 256, programMs: 0.7, erases })
  const entering = table.slice()
  new DataView(entering.buffer).setUint32(0x30 + 60, 0x01000000, true)
  const { loader } = await bench({ bytes: large, table: entering }, { bytes: large.length })
  await loader.attach()
  expect([...(await loader.peek(2 ** 24 + 0x100, 4))]).toEqual([1, 2, 3, 4])
  const { loader: other } = await bench({ bytes: large, table }, { bytes: large.length })
  expect((await caught(other.attach())).facts.kind).toBe('flash-reach')
})

it('a page is never wrapped: the room at an address ends with its page', async () => {
  const { loader } = await bench()
  await loader.attach()
  const { room } = loader.chip()!
  expect([room(0), room(1), room(255), room(256)]).toEqual([256, 255, 1, 256])
})

/*
 * Faults by the thousand: contact that gives way for a while, single bits that flip on either wire, a chip that never ends,
 * protection that holds, a chip of another size. Whatever comes, a proof is given only where every byte is there.
 */
it('no fault gives a false proof', async () => {
  const { proved, refused } = await writeUnderFaults(
    ['none', 'flip', 'lost', 'busy', 'protected', 'held', 'small'],
    { imageBytes: 1024, clocks: 60_000, runs: 150 },
    async (fault, seed, wire) => {
      const memory = noise(fault === 'small' ? 4096 : 8192, seed + 7)
      const { loader } = await bench(
        {
          bytes: memory,
          busyForEver: fault === 'busy',
          status: fault === 'protected' || fault === 'held' ? 0x9c : 0,
          statusHeld: fault === 'held',
          wire,
        },
        { bytes: 8192, regions: [{ address: 0, length: 8192 }] },
      )
      return { loader, address: 4096, memory }
    },
  )
  // Both ends are met, however many are asked.
  expect(proved / (proved + refused)).toBeGreaterThan(0.04)
  expect(refused / (proved + refused)).toBeGreaterThan(0.2)
}, 900_000)
