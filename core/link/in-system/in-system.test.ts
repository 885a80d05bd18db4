import { demoFamily } from '@bench-wake/demo'
import { dapAdapterDevice, inSystemTarget, usbDevice, type InSystemForm } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import { drivenLink, instructionFault, instructionOf, readFamily, type DriveOf } from '../../family'
import { virtualClock } from '../../kernel'
import { caught, noise, writeUnderFaults } from '../faulted.test-support'
import { openSpiPort } from '../spi'
import { dapAdapter } from '../swd'
import { fuseChanges, inSystemLoader, portClockText, portHertz, wantedFuses } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const drive = drivenLink(demoFamily('relay-driver'))!.drive as DriveOf<'in-system'>
const quiet = () => {}
const calm = { raised: false }

async function bench(
  form: Partial<InSystemForm> = {},
  own: Partial<DriveOf<'in-system'>> = {},
  others: string[] = [],
) {
  const clock = virtualClock(turn)
  const spoken = { ...drive, ...own }
  const memory = noise(0x2000, 77)
  const fuses = new Map([
    ['clock', 0xe4],
    ['guard', 0xdc],
    ['lock', 0xff],
  ])
  const unit = inSystemTarget({
    clock,
    drive,
    signature: '3D9307',
    memory,
    pageBytes: 64,
    fuses,
    ...form,
  })
  const device = dapAdapterDevice({ clock, ends: { lines: unit }, version: 2, serial: '1' })
  const usb = usbDevice({ name: 'six', clock, now: () => device })
  await usb.open()
  const loader = inSystemLoader(
    'six',
    async () => openSpiPort(await dapAdapter(usb), { hertz: portHertz(spoken), select: 'none' }),
    clock,
    { drive: spoken, regions: [{ address: 0, length: 0x2000 }], others, pageBytes: 64, erasedByte: 0xff },
  )
  return { clock, memory: form.memory ?? memory, fuses: form.fuses ?? fuses, loader }
}

describe('an instruction as its manual writes it', () => {
  // Worked by hand: address 0x1234 with its high byte first, then the byte.
  it('is filled with address, number and byte', () => {
    const load = instructionOf('60 @1 @0 d')
    expect([...load.send({ address: 0x1234, data: 0xab })]).toEqual([0x60, 0x12, 0x34, 0xab])
    expect(load).toMatchObject({ read: 0, resultAt: null })
    const read = instructionOf('28 @1 @0 r')
    expect([...read.send({ address: 0x0102 })]).toEqual([0x28, 1, 2])
    expect(read).toMatchObject({ read: 1, resultAt: 0 })
    const enable = instructionOf('C5 6B r --')
    expect([...enable.send({})]).toEqual([0xc5, 0x6b])
    expect(enable).toMatchObject({ read: 2, resultAt: 0 })
    expect([...instructionOf('A0 a0 i -- r').send({ index: 2 })]).toEqual([0xa0, 0xa0, 2, 0])
  })
  it.each<[string, RegExp | null]>([
    ['60 @1 @0 d', null],
    ['60 @3 d', /"@3" is neither/],
    ['60 1 d', /"1" is neither/],
    ['r -- --', /Something goes out/],
    ['28 r r', /One byte comes back/],
    ['28 r d', /After the byte/],
    ['28 r 01', /After the byte/],
    ['28 r 00', null],
    ['00 00 00 00 00 00 00 00 00', /eight bytes/],
  ])('"%s" is judged before it is ever sent', (text, says) => {
    const fault = instructionFault(text)
    if (says === null) expect(fault).toBeNull()
    else expect(fault).toMatch(says)
  })
})

// Common practice: the port's clock stays under a quarter of the unit's own.
describe('the clock of the port', () => {
  it('is a fifth of the unit’s where nothing is said, and says so', () => {
    expect(portHertz({ unitHertz: 1_000_000 })).toBe(200_000)
    expect(portHertz({ unitHertz: 1_000_000, hertz: 100_000 })).toBe(100_000)
    expect(portClockText(drive)).toBe('200 kHz, under a quarter of the unit’s 1000 kHz')
  })
  it('is refused in a profile at a quarter, and taken just under it', () => {
    const withHertz = (hertz: number) => {
      const family = structuredClone(demoDocument())
      family.links[0]!.drive.hertz = hertz
      return () => readFamily(family as never)
    }
    expect(withHertz(250_000)).toThrow(/under a quarter/)
    expect(withHertz(249_999)).not.toThrow()
  })
  it('that a unit cannot follow does not let it in', async () => {
    const { loader } = await bench({}, { hertz: 250_000 })
    expect((await caught(loader.attach())).facts.kind).toBe('no-bootloader')
    const { loader: slower } = await bench({}, { hertz: 249_000 })
    await slower.attach()
  })
})

function demoDocument() {
  const family = demoFamily('relay-driver')
  const hex = (value: number) => `0x${value.toString(16).toUpperCase()}`
  return JSON.parse(
    JSON.stringify(family, (key, value: unknown) =>
      typeof value === 'number' && ['address', 'offset'].includes(key) ? hex(value) : value,
    ),
    (key, value: unknown) =>
      key === 'regions'
        ? (value as { length: number }[]).map((region) => ({ ...region, length: hex(region.length) }))
        : value,
  ) as { links: { drive: { hertz?: number } }[] }
}

describe('a processor on its six lines', () => {
  it('is let in, read, erased, written and compared byte by byte', async () => {
    const { loader, memory } = await bench()
    await loader.attach()
    expect(await loader.signature()).toBe('3D9307')
    expect(await loader.read!({ address: 0x100, length: 700 }, quiet)).toEqual(memory.slice(0x100, 0x3bc))
    const image = noise(0x1235)
    await loader.erase({ address: 0, length: image.length }, quiet)
    expect(memory.every((byte) => byte === 0xff)).toBe(true)
    await loader.write(0, image, quiet, calm)
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-read-back' })
    expect(memory.subarray(0, image.length)).toEqual(image)
    memory[0x800]! ^= 8
    expect(await loader.verify(0, image)).toMatchObject({
      outcome: 'different',
      found: expect.stringContaining('0x000800') as string,
    })
  })
  it('that misses the first pulse of reset is given another', async () => {
    const { loader } = await bench({ missesFirst: true })
    await loader.attach()
    const { loader: once } = await bench({ missesFirst: true }, { tries: 1 })
    expect((await caught(once.attach())).facts.kind).toBe('no-bootloader')
  })
  it('of another kind is refused before anything is erased', async () => {
    const { loader, memory } = await bench({ signature: '3D9207' })
    const before = memory.slice()
    expect((await caught(loader.attach())).facts).toMatchObject({ kind: 'in-system-other', found: '3D9207' })
    await caught(loader.erase({ address: 0, length: 64 }, quiet))
    expect(memory).toEqual(before)
  })
  it('takes no image that lies outside of its memory', async () => {
    const { loader, memory } = await bench()
    const before = memory.slice()
    const problem = await caught(loader.erase({ address: 0x1fc1, length: 64 }, quiet))
    expect(problem.facts.kind).toBe('in-system-outside')
    expect(memory).toEqual(before)
    await loader.erase({ address: 0x1fc0, length: 64 }, quiet)
  })
  it('is not erased where that takes more than the program: a loader, settings', async () => {
    const { loader, memory } = await bench({}, {}, ['Boot loader'])
    const before = memory.slice()
    await loader.attach()
    expect((await caught(loader.erase({ address: 0, length: 64 }, quiet))).facts).toMatchObject({
      kind: 'in-system-takes-more',
      found: expect.stringContaining('Boot loader') as string,
    })
    expect(memory).toEqual(before)
  })
  it('is written from the middle of a page on, byte for byte, and told so piece by piece', async () => {
    const { loader, memory } = await bench()
    await loader.attach()
    await loader.erase({ address: 0, length: 0x2000 }, quiet)
    // From 0x70 on: 16 bytes to the end of that page of 64, one whole page, and three bytes more.
    const image = noise(83, 4)
    const told: number[] = []
    await loader.write(0x70, image, ({ done }) => void told.push(done), calm)
    expect(told).toEqual([16, 80, 83])
    expect(memory.subarray(0x70, 0x70 + 83)).toEqual(image)
    expect(memory.subarray(0, 0x70).every((byte) => byte === 0xff)).toBe(true)
    expect(memory.subarray(0x70 + 83).every((byte) => byte === 0xff)).toBe(true)
  })
  it('is not made to program what is erased', async () => {
    const { loader, clock } = await bench()
    await loader.attach()
    await loader.erase({ address: 0, length: 0x2000 }, quiet)
    const took = async (image: Uint8Array) => {
      const from = clock.now()
      await loader.write(0, image, quiet, calm)
      return clock.now() - from
    }
    expect(await took(new Uint8Array(640).fill(0xff))).toBe(0)
    expect(await took(Uint8Array.from({ length: 640 }, (_, at) => (at === 639 ? 0 : 0xff)))).toBeGreaterThan(
      0,
    )
  })
  it('whose write is given up says how far it came', async () => {
    const { loader } = await bench()
    await loader.attach()
    await loader.erase({ address: 0, length: 0x2000 }, quiet)
    const abandon = { raised: false }
    const problem = await caught(
      loader.write(0, noise(256), ({ done }) => void (abandon.raised = done >= 128), abandon),
    )
    expect(problem.facts.kind).toBe('write-abandoned')
    expect(JSON.stringify(problem.facts)).toContain('128')
  })
  it('is erased whole on a person’s word alone', async () => {
    const { loader, memory } = await bench()
    const before = memory.slice()
    await loader.attach()
    await expect(loader.eraseAll!('yes' as never)).rejects.toThrow(TypeError)
    expect(memory).toEqual(before)
  })
  it('that stays busy is named', async () => {
    const { loader } = await bench({ busyForEver: true })
    await loader.attach()
    expect((await caught(loader.erase({ address: 0, length: 64 }, quiet))).facts).toMatchObject({
      kind: 'in-system-busy',
      says: expect.stringContaining('erase') as string,
    })
  })
  it('whose lock keeps it from being read is told so, not erased in passing, and opened by two words', async () => {
    const { loader, memory, fuses } = await bench()
    fuses.set('lock', 0xfd)
    const before = memory.slice()
    await loader.attach()
    expect(await loader.protected!()).toBe(true)
    expect((await caught(loader.erase({ address: 0, length: 64 }, quiet))).facts.kind).toBe('debug-protected')
    expect(memory).toEqual(before)
    await loader.eraseAll!('erase the whole unit')
    expect(await loader.protected!()).toBe(false)
    // Writing is shut by another bit, which keeps nothing from being read.
    fuses.set('lock', 0xfe)
    expect(await loader.protected!()).toBe(false)
  })
})

describe('fuses', () => {
  const [clock, guard] = drive.fuses!
  it('tell bit by bit what changes', () => {
    // 0xDC to 0xCC is bit 4 alone; 0xE4 to 0xE5 is bit 0, the crystal that is not there.
    expect(fuseChanges(guard!, 0xdc, 0xcc)).toMatchObject([
      { bit: 4, from: 1, to: 0, name: 'Watchdog', says: 'the watchdog always runs', locksOut: false },
    ])
    expect(fuseChanges(clock!, 0xe4, 0xe5)).toMatchObject([{ bit: 0, name: 'Own clock', locksOut: true }])
    expect(fuseChanges(clock!, 0xe5, 0xe4)).toMatchObject([{ bit: 0, locksOut: false }])
    expect(fuseChanges(guard!, 0xdc, 0xdc)).toEqual([])
  })
  it('of bits that nobody describes count as ones that lock out', () => {
    expect(fuseChanges(guard!, 0xdc, 0xdd)).toMatchObject([{ bit: 0, name: 'bit 0', locksOut: true }])
  })
  it('are what a person says, else what the profile says, else left alone', () => {
    expect(wantedFuses(drive, [])).toEqual([{ id: 'clock', value: 0xe4 }])
    expect(wantedFuses(drive, [{ id: 'guard', value: 0xcc }])).toEqual([
      { id: 'clock', value: 0xe4 },
      { id: 'guard', value: 0xcc },
    ])
    expect(wantedFuses(drive, [{ id: 'clock', value: 0x64 }])).toEqual([{ id: 'clock', value: 0x64 }])
  })
  it('are read, set and read back', async () => {
    const { loader, fuses } = await bench()
    await loader.attach()
    expect((await loader.fuses()).map(({ value }) => value)).toEqual([0xe4, 0xdc, 0xff])
    await loader.setFuse('guard', 0xcc)
    expect(fuses.get('guard')).toBe(0xcc)
  })
  it('that do not hold what was written are named', async () => {
    const stuck = new Map([
      ['clock', 0xe4],
      ['guard', 0xdc],
      ['lock', 0xff],
    ])
    stuck.set = () => stuck
    const { loader } = await bench({ fuses: stuck })
    await loader.attach()
    expect((await caught(loader.setFuse('guard', 0xcc))).facts).toMatchObject({
      kind: 'fuse-not-taken',
      expected: 'Guard 0xCC',
      found: 'Guard 0xDC',
    })
  })
  it('that shut the port really do', async () => {
    const { loader, fuses } = await bench()
    fuses.set('guard', 0xfc)
    expect((await caught(loader.attach())).facts.kind).toBe('no-bootloader')
  })
})

/* Faults: bits that flip on either wire, reset missed, a unit that never ends, a lock. Never a proof of other bytes. */
it('no fault gives a false proof', async () => {
  const { proved, refused } = await writeUnderFaults(
    ['none', 'flip', 'lost', 'busy', 'locked', 'missed', 'other'],
    { imageBytes: 300, clocks: 30_000, runs: 100 },
    async (fault, _, wire) => {
      const { loader, memory, fuses } = await bench({
        busyForEver: fault === 'busy',
        missesFirst: fault === 'missed',
        ...(fault === 'other' ? { signature: '3D9407' } : {}),
        wire,
      })
      if (fault === 'locked') fuses.set('lock', 0xfd)
      return { loader, address: 0, memory }
    },
  )
  // Both ends are met, however many are asked.
  expect(proved / (proved + refused)).toBeGreaterThan(0.04)
  expect(refused / (proved + refused)).toBeGreaterThan(0.2)
}, 900_000)
