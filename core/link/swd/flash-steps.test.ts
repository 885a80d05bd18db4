import {
  dapAdapterDevice,
  stepsController,
  microcontroller,
  usbDevice,
  wireTarget,
  type TargetMemory,
} from '@bench-wake/standins'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { driveForms, type DriveOf } from '../../family'
import { equalBytes, virtualClock, type Clock } from '../../kernel'
import { debugLoader, stepsOfController, type DebugPort } from '.'
import { carryOut } from './flash-steps'

/*
 * Flash controllers of other shapes, each written from a page of a manual made up for it and sharing no code with core or with
 * the stand-ins: their acts as steps on memory. The shapes are common practice.
 */

const turn = () => new Promise<void>((done) => setImmediate(done))
const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 37 + (at >> 8)) & 255)

/** A small processor that halts when it is told to; everything else is `inner`. */
function processor(inner: TargetMemory): TargetMemory {
  let halted = false
  return {
    read: (address) => (address === 0xe000edf0 ? (halted ? 0x20003 : 1) : inner.read(address)),
    write(address, value, bytes) {
      if (address === 0xe000edf0) return ((halted = (value & 2) !== 0), true)
      if (address === 0xe000ed0c) return true
      return inner.write(address, value, bytes)
    },
  }
}

interface Part {
  memory: TargetMemory
  bytes: Uint8Array
  /** What it was asked to do, in its order. */
  acts: string[]
}

/**
 * Manual page 1. 16 KiB of flash from 0x0040_0000, pages of 512 bytes. A write buffer of 512 bytes lies from 0x2010_0000. The
 * command register 0x400E_0A04 takes 0x5A in its top byte, the page number in bits 8 to 23, the command in bits 0 to 7: 0x07
 * erases the page, 0x01 programs the buffer into it, 0x0E erases all. Status 0x400E_0A08: bit 0 ready, bit 1 a command refused
 * (wrong top byte, a page that is not erased, locked), written back it is cleared. Lock 0x400E_0A0C: 1 locked; it opens by 0x0.
 */
function commandPart(clock: Clock, { stuck = false, overwrites = false } = {}): Part {
  const bytes = patterned(0x4000)
  const acts: string[] = []
  const buffer = new Uint8Array(512).fill(0xff)
  let readyAt = 0
  let refused = false
  let locked = true
  const put = (into: Uint8Array, at: number, value: number) => {
    for (let lane = 0; lane < 4; lane++) into[at + lane] = (value >>> (8 * lane)) & 255
  }
  const word = (at: number) => new DataView(bytes.buffer).getUint32(at, true)
  const command = (value: number) => {
    const page = ((value >>> 8) & 0xffff) * 512
    const name = value & 255
    const blank = () => bytes.subarray(page, page + 512).every((byte) => byte === 0xff)
    const good = value >>> 24 === 0x5a && !locked && clock.now() >= readyAt && page < bytes.length
    if (!good || (name === 1 && !overwrites && !blank())) return void (refused = true)
    acts.push(`${{ 1: 'program', 7: 'erase', 14: 'erase all' }[name]} ${page}`)
    if (name === 1) bytes.set(buffer, page)
    else if (name === 7) bytes.fill(0xff, page, page + 512)
    else bytes.fill(0xff)
    readyAt = stuck ? Infinity : clock.now() + 5
  }
  return {
    bytes,
    acts,
    memory: processor({
      read(address) {
        if (address === 0x400e0a08) return Number(clock.now() >= readyAt) | (refused ? 2 : 0)
        if (address === 0x400e0a0c) return Number(locked)
        return address >= 0x400000 && address < 0x404000 ? word(address - 0x400000) : null
      },
      write(address, value, width) {
        if (address >= 0x20100000 && address < 0x20100200 && width === 4)
          put(buffer, address - 0x20100000, value)
        else if (address === 0x400e0a04) command(value)
        else if (address === 0x400e0a08) refused &&= (value & 2) === 0
        else if (address === 0x400e0a0c) locked = value !== 0
        else return false
        return true
      },
    }),
  }
}
const commandSteps = {
  width: 4,
  pageBytes: 512,
  base: '0x00400000',
  unlock: [{ do: 'set', register: '0x400E0A0C', value: '0x0' }],
  erasePage: [
    { do: 'set', register: '0x400E0A04', value: '0x5A000007', with: 'page-number', shift: 8 },
    { do: 'until', register: '0x400E0A08', mask: '0x1', is: '0x1', withinMs: 50 },
    { do: 'check', register: '0x400E0A08', mask: '0x2', says: 'the command was refused', clear: true },
  ],
  eraseAll: [
    { do: 'set', register: '0x400E0A04', value: '0x5A00000E' },
    { do: 'until', register: '0x400E0A08', mask: '0x1', is: '0x1', withinMs: 500 },
  ],
  program: [
    { do: 'data', to: '0x20100000' },
    { do: 'set', register: '0x400E0A04', value: '0x5A000001', with: 'page-number', shift: 8 },
    { do: 'until', register: '0x400E0A08', mask: '0x1', is: '0x1', withinMs: 50 },
    { do: 'check', register: '0x400E0A08', mask: '0x2', says: 'the command was refused', clear: true },
  ],
  lock: [{ do: 'set', register: '0x400E0A0C', value: '0x1' }],
}

/**
 * Manual page 2. 16 KiB of flash from 0, pages of 1 KiB. Mode register 0x4001_E504: 0 read, 1 write, 2 erase; one at a time.
 * In mode 1 whole words are written to their own place, bits only go to 0. In mode 2 a page is erased by writing its first
 * address to 0x4001_E508. Ready 0x4001_E400: 1 once it is done. A write in the wrong mode is a bus fault.
 */
function modePart(clock: Clock): Part {
  const bytes = patterned(0x4000)
  const acts: string[] = []
  let mode = 0
  let readyAt = 0
  const view = new DataView(bytes.buffer)
  return {
    bytes,
    acts,
    memory: processor({
      read(address) {
        if (address === 0x4001e400) return Number(clock.now() >= readyAt)
        if (address === 0x4001e504) return mode
        return address < bytes.length ? view.getUint32(address, true) : null
      },
      write(address, value, width) {
        if (address < bytes.length) {
          if (mode !== 1 || width !== 4) return false
          view.setUint32(address, view.getUint32(address, true) & value, true)
        } else if (address === 0x4001e504) {
          mode = value
          acts.push(`mode ${value}`)
        } else if (address === 0x4001e508) {
          if (mode !== 2 || value % 1024 !== 0) return false
          bytes.fill(0xff, value, value + 1024)
          readyAt = clock.now() + 20
        } else return false
        return true
      },
    }),
  }
}
const modeSteps = {
  width: 4,
  pageBytes: 1024,
  erasePage: [
    { do: 'set', register: '0x4001E504', value: '0x2' },
    { do: 'set', register: '0x4001E508', value: '0x0', with: 'page-address' },
    { do: 'until', register: '0x4001E400', mask: '0x1', is: '0x1', withinMs: 100 },
  ],
  program: [
    { do: 'set', register: '0x4001E504', value: '0x1' },
    { do: 'data' },
    { do: 'until', register: '0x4001E400', mask: '0x1', is: '0x1', withinMs: 10 },
  ],
  lock: [{ do: 'set', register: '0x4001E504', value: '0x0' }],
}

/** The drive as a profile has it, read as a profile is; its faults with their places. */
function driveOf(flashSteps: object | null, more: object = {}) {
  const described = { ...(flashSteps && { flashSteps }), ...more }
  const drive = v.parse(driveForms.debug.schema, {
    speaks: 'debug',
    hertz: 4_000_000,
    page: [{ field: 'hardware', address: '0x10', length: 4, as: 'number' }],
    eraseMs: 20,
    ...described,
  }) as DriveOf<'debug'>
  const faults: string[] = []
  driveForms.debug.check!(drive, 'drive', (at, says) => faults.push(`${at}: ${says}`))
  return { drive, faults }
}

async function joined(part: (clock: Clock) => Part, steps: object) {
  const clock = virtualClock(turn)
  const own = part(clock)
  const wire = wireTarget(0x2ba01477, own.memory)
  const device = dapAdapterDevice({ clock, ends: { wire }, version: 2, serial: '7' })
  const usb = usbDevice({ name: 'adapter', clock, now: () => device })
  const { drive, faults } = driveOf(steps)
  expect(faults).toEqual([])
  const loader = debugLoader(usb, clock, drive, async () => [])
  await usb.open()
  await loader.attach()
  return { ...own, loader, clock }
}
const never = { raised: false }

describe.each([
  ['takes commands and a buffer', commandPart, commandSteps, 0x400000],
  ['has a mode and its own memory', modePart, modeSteps, 0],
] as const)('a flash controller that %s', (_, part, steps, base) => {
  it('is erased, written and read back by its steps, and nothing beside it is touched', async () => {
    const { loader, bytes } = await joined(part, steps)
    const image = patterned(5001).map((byte) => byte ^ 0x5a)
    const at = 0x1000
    await loader.erase({ address: base + at, length: image.length }, () => {})
    expect(bytes.subarray(at, at + 5120).every((byte) => byte === 0xff)).toBe(true)
    const done: number[] = []
    await loader.write(base + at, image, (each) => void done.push(each.done), never)
    expect(equalBytes(bytes.subarray(at, at + image.length), image)).toBe(true)
    expect(done.at(-1)).toBe(image.length)
    expect(done).toEqual([...done].sort((a, b) => a - b))
    expect(await loader.verify(base + at, image)).toMatchObject({ outcome: 'equal-read-back' })
    const beside = patterned(0x4000)
    expect(equalBytes(bytes.subarray(0, at), beside.subarray(0, at))).toBe(true)
    expect(equalBytes(bytes.subarray(at + 5120), beside.subarray(at + 5120))).toBe(true)
  })
  it('takes an image that begins within a page', async () => {
    const { loader, bytes } = await joined(part, steps)
    const image = patterned(1500).map((byte) => byte ^ 0x33)
    await loader.erase({ address: base + 0x800, length: 0x1000 }, () => {})
    await loader.write(base + 0x8fe, image, () => {}, never)
    expect(equalBytes(bytes.subarray(0x8fe, 0x8fe + 1500), image)).toBe(true)
    expect([...bytes.subarray(0x800, 0x8fe)].every((byte) => byte === 0xff)).toBe(true)
  })
})

describe('steps on a controller', () => {
  it('open it before each act and shut it after each, whatever became of it', async () => {
    const { loader, memory } = await joined(commandPart, commandSteps)
    await loader.erase({ address: 0x400000, length: 512 }, () => {})
    expect(memory.read(0x400e0a0c)).toBe(1)
    // The second page is not erased: its manual refuses.
    await expect(loader.write(0x400000, patterned(1024), () => {}, never)).rejects.toMatchObject({
      facts: {
        kind: 'debug-flash',
        says: 'the command was refused at 0x00400200',
        place: { at: '0x00400200' },
      },
    })
    expect(memory.read(0x400e0a0c)).toBe(1)
    // Its refusal was written back, so that the next act can begin.
    expect(memory.read(0x400e0a08)! & 2).toBe(0)
    const other = await joined(modePart, modeSteps)
    await other.loader.erase({ address: 0, length: 1024 }, () => {})
    expect(other.acts).toEqual(['mode 2', 'mode 0'])
  })
  it('that wait for a unit that never gets ready end, and say so', async () => {
    const { loader, clock } = await joined((at) => commandPart(at, { stuck: true }), commandSteps)
    const before = clock.now()
    await expect(loader.erase({ address: 0x400000, length: 512 }, () => {})).rejects.toMatchObject({
      facts: { kind: 'debug-flash', says: 'the memory stays busy' },
    })
    expect(clock.now() - before).toBeLessThan(200)
  })
  it('erase everything only with consent, and not at all where the manual knows no such act', async () => {
    const { loader, bytes } = await joined(commandPart, commandSteps)
    await expect(loader.eraseAll!('yes' as never)).rejects.toThrow(TypeError)
    expect(bytes[0]).toBe(patterned(1)[0])
    await loader.eraseAll!('erase the whole unit')
    expect(bytes.every((byte) => byte === 0xff)).toBe(true)
    expect((await joined(modePart, modeSteps)).loader.eraseAll).toBeUndefined()
  })
  it('shut it again where it did not open, too', async () => {
    const { loader, memory } = await joined(commandPart, {
      ...commandSteps,
      unlock: [
        { do: 'set', register: '0x400E0A0C', value: '0x0' },
        { do: 'check', register: '0x400E0A08', mask: '0x1', says: 'it works already' },
      ],
    })
    await expect(loader.erase({ address: 0x400000, length: 512 }, () => {})).rejects.toMatchObject({
      facts: { says: expect.stringContaining('it works already') },
    })
    expect(memory.read(0x400e0a0c)).toBe(1)
  })
  // A part of an image may end and another begin in one page: what stands in it already is programmed with it.
  it('fill a buffer with what its page holds already', async () => {
    const { loader, bytes } = await joined((at) => commandPart(at, { overwrites: true }), commandSteps)
    const image = patterned(100).map((byte) => byte ^ 0x5a)
    await loader.erase({ address: 0x400000, length: 512 }, () => {})
    await loader.write(0x400000, image, () => {}, never)
    await loader.write(0x400080, image, () => {}, never)
    expect(equalBytes(bytes.subarray(0, 100), image)).toBe(true)
    expect(equalBytes(bytes.subarray(0x80, 0x80 + 100), image)).toBe(true)
  })
  it('need no unlocking where they are enough already', async () => {
    const { loader, acts, memory } = await joined(commandPart, {
      ...commandSteps,
      unlock: [
        { do: 'enough', register: '0x400E0A0C', mask: '0x1' },
        { do: 'set', register: '0x400E0A0C', value: '0x0' },
      ],
    })
    await loader.erase({ address: 0x400000, length: 512 }, () => {})
    await memory.write(0x400e0a0c, 0, 4)
    await loader.erase({ address: 0x400200, length: 512 }, () => {})
    expect(acts).toEqual(['erase 0', 'erase 512'])
  })
  it('tell a protection by any bit, or by just the value that is named', async () => {
    const at = (protection: object) => joined(commandPart, { ...commandSteps, protection })
    const register = '0x400E0A0C'
    expect(await (await at({ register, mask: '0x3' })).loader.protected()).toBe(true)
    expect(await (await at({ register, mask: '0x2' })).loader.protected()).toBe(false)
    expect(await (await at({ register, mask: '0x3', is: '0x1' })).loader.protected()).toBe(true)
    expect(await (await at({ register, mask: '0x3', is: '0x3' })).loader.protected()).toBe(false)
    const shut = await at({ register, mask: '0x1' })
    await expect(shut.loader.erase({ address: 0x400000, length: 512 }, () => {})).rejects.toMatchObject({
      facts: { kind: 'debug-protected', remedy: expect.stringContaining('needs your word twice') },
    })
    const { eraseAll: _, ...noWay } = { ...commandSteps, protection: { register, mask: '0x1' } }
    const kept = await joined(commandPart, noWay)
    await expect(kept.loader.erase({ address: 0x400000, length: 512 }, () => {})).rejects.toMatchObject({
      facts: { kind: 'debug-protected', remedy: expect.stringContaining('names no way') },
    })
  })
  // The steps of the usual shape, against the register names of its manual page in swd.test.ts.
  it('of a controller with keys are those that its bits say', () => {
    const steps = stepsOfController(
      {
        keyRegister: 4,
        keys: [0x11, 0x22],
        statusRegister: 12,
        busy: 1,
        errors: 0x14,
        controlRegister: 16,
        program: 1,
        pageErase: 2,
        massErase: 4,
        start: 0x40,
        lock: 0x80,
        addressRegister: 20,
        width: 2,
        pageBytes: 1024,
        protection: { register: 28, mask: 2 },
      },
      22,
    )
    expect(steps.unlock!.map((step) => ('value' in step ? step.value : step.do))).toEqual([
      'enough',
      0x11,
      0x22,
    ])
    expect(
      steps.erasePage.flatMap((step) => (step.do === 'set' ? [[step.register, step.value]] : [])),
    ).toEqual([
      [16, 2],
      [20, 0],
      [16, 0x42],
    ])
    expect(steps.eraseAll!.flatMap((step) => (step.do === 'set' ? [step.value] : []))).toEqual([4, 0x44])
    expect(steps.pieceBytes).toBeUndefined()
  })
})

describe('steps that could not work at any unit are refused at their place', () => {
  const set = { do: 'set', register: '0x10', value: '0x1' }
  const wait = { do: 'wait', ms: 1 }
  it.each([
    ['a page that nobody names', { erasePage: [set, wait] }, 'drive.flashSteps.erasePage'],
    [
      'an erase that nothing waits for',
      { erasePage: [{ ...set, with: 'page-address' }] },
      'drive.flashSteps.erasePage',
    ],
    ['no piece', { program: [set, wait] }, 'drive.flashSteps.program'],
    ['two pieces', { program: [{ do: 'data' }, { do: 'data' }, wait] }, 'drive.flashSteps.program'],
    ['a piece in an erase', { lock: [{ do: 'data' }] }, 'drive.flashSteps.lock.0'],
    [
      'a buffer whose place nobody says',
      { program: [{ do: 'data', to: '0x100' }, set, wait] },
      'drive.flashSteps.program',
    ],
    [
      'several pieces to one place',
      { pieceBytes: 256, program: [{ do: 'data', to: '0x100' }, { ...set, with: 'page-number' }, wait] },
      'drive.flashSteps.program',
    ],
    [
      'a register within a word',
      { lock: [{ ...set, register: '0x12' }] },
      'drive.flashSteps.lock.0.register',
    ],
    ['a shift of nothing', { lock: [{ ...set, shift: 8 }] }, 'drive.flashSteps.lock.0.shift'],
    ['a page to lock', { lock: [{ ...set, with: 'page-number' }] }, 'drive.flashSteps.lock.0.with'],
    [
      'bits that can never be so',
      { unlock: [{ do: 'until', register: '0x10', mask: '0x1', is: '0x2', withinMs: 1 }] },
      'drive.flashSteps.unlock.0.is',
    ],
    [
      'a look at no bit',
      { unlock: [{ do: 'enough', register: '0x10', mask: '0x0' }] },
      'drive.flashSteps.unlock.0.mask',
    ],
    [
      'pieces of half a write',
      { pieceBytes: 2, program: [{ do: 'data' }, wait] },
      'drive.flashSteps.pieceBytes',
    ],
    [
      'pieces that a page does not hold',
      { pieceBytes: 384, program: [{ do: 'data' }, wait] },
      'drive.flashSteps.pieceBytes',
    ],
    [
      'a buffer beside its steps',
      { program: [{ do: 'data', to: '0x102' }, { ...set, with: 'page-number' }, wait] },
      'drive.flashSteps.program.0.to',
    ],
  ])('%s', (_, change, place) => {
    const { faults } = driveOf({ ...commandSteps, ...change })
    expect(faults).toHaveLength(1)
    expect(faults[0]).toMatch(new RegExp(`^${place.replaceAll('.', '\\.')}: `))
  })
  it('and so is a controller that is described twice or not at all', () => {
    const keys = { keyRegister: '0x4', keys: ['0x1'], statusRegister: '0xC', busy: '0x1', errors: '0x14' }
    const control = {
      controlRegister: '0x10',
      program: '0x1',
      pageErase: '0x2',
      massErase: '0x4',
      start: '0x40',
    }
    const rest = { lock: '0x80', addressRegister: '0x14', width: 2, pageBytes: 1024 }
    const flash = { ...keys, ...control, ...rest, protection: { register: '0x1C', mask: '0x2' } }
    const faultsOf = (described: object) => driveOf(commandSteps, described).faults
    expect(faultsOf({ flash })).toEqual([expect.stringMatching(/^drive: .*described once/)])
    expect(driveOf(null, { flash }).faults).toEqual([])
    expect(driveOf(null).faults).toEqual([expect.stringMatching(/^drive: .*described once/)])
  })
})

// A stand-in made from the profile plays the same acts: what goes at it goes at the part of the manual page too.
describe('the stand-in of such steps', () => {
  it.each([
    ['commands and a buffer', commandSteps, 0x400000],
    ['a mode', modeSteps, 0],
  ] as const)('with %s erases, takes and gives back what was written', async (_, steps, base) => {
    const clock = virtualClock(turn)
    const bytes = patterned(0x4000)
    const { drive } = driveOf(steps)
    const memory = microcontroller({
      clock,
      controller: (part) => stepsController(drive.flashSteps!, part),
      base,
      bytes,
      eraseMs: 20,
      programMs: 0.05,
      protection: { on: false },
      onReset() {},
    })
    const device = dapAdapterDevice({ clock, ends: { wire: wireTarget(1, memory) }, version: 2, serial: '7' })
    const usb = usbDevice({ name: 'adapter', clock, now: () => device })
    const loader = debugLoader(usb, clock, drive, async () => [])
    await usb.open()
    await loader.attach()
    const image = patterned(3000).map((byte) => byte ^ 0x5a)
    await loader.erase({ address: base + 0x400, length: image.length }, () => {})
    await loader.write(base + 0x400, image, () => {}, never)
    expect(equalBytes(bytes.subarray(0x400, 0x400 + image.length), image)).toBe(true)
    expect(await loader.verify(base + 0x400, image)).toMatchObject({ outcome: 'equal-read-back' })
    expect(equalBytes(bytes.subarray(0, 0x400), patterned(0x400))).toBe(true)
  })
  it('refuses a write in the wrong mode, and a page that is none of its own', async () => {
    const clock = virtualClock(turn)
    const bytes = patterned(0x4000)
    const { drive } = driveOf(commandSteps)
    const memory = microcontroller({
      clock,
      controller: (part) => stepsController(drive.flashSteps!, part),
      base: 0x400000,
      bytes,
      eraseMs: 20,
      programMs: 0.05,
      protection: { on: false },
      onReset() {},
    })
    // Locked, and then beyond its end: nothing is erased, and its status says that it was refused.
    for (const [lock, page] of [
      [1, 0],
      [0, 0x20],
    ] as const) {
      memory.write(0x400e0a0c, lock, 4)
      memory.write(0x400e0a04, (0x5a000007 | (page << 8)) >>> 0, 4)
      expect(memory.read(0x400e0a08)! & 2).toBe(2)
      memory.write(0x400e0a08, 2, 4)
      expect(memory.read(0x400e0a08)! & 2).toBe(0)
    }
    expect(equalBytes(bytes, patterned(0x4000))).toBe(true)
    memory.write(0x400e0a04, 0x5a000007, 4)
    expect(bytes.subarray(0, 512).every((byte) => byte === 0xff)).toBe(true)
    expect(memory.read(0x400e0a08)! & 1).toBe(0)
  })
})

it('a computer that stood still does not make a memory one that stays busy; one that still is busy afterwards is', async () => {
  const until = { do: 'until', register: 0x10, mask: 1, is: 1, withinMs: 50 } as const
  const place = { page: 0, pageNumber: 0, at: 0 }
  const waited = (ready: (look: number) => boolean) => {
    const clock = virtualClock(turn)
    let looks = 0
    const unit = {
      // The first answer was right when it was given, and is read a minute later.
      async read() {
        if (++looks === 1) await clock.sleep(60_000)
        return ready(looks) ? 1 : 0
      },
    } as unknown as DebugPort
    return carryOut([until], place, { unit, clock, thing: 'pads', width: 4 })
  }
  await expect(waited((look) => look === 2)).resolves.toBeUndefined()
  await expect(waited(() => false)).rejects.toMatchObject({ facts: { kind: 'debug-flash' } })
})
