import {
  dapAdapterDevice,
  microcontroller,
  usbDevice,
  dapProbe,
  registerController,
  wireTarget,
  type TargetForm,
  type TargetMemory,
} from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { equalBytes, isProblem, virtualClock } from '../../kernel'
import {
  ap,
  accessControl,
  dapAdapter,
  dapRequestByte,
  dataParity,
  debugLoader,
  decodeBlockAnswer,
  decodeRequest,
  decodeTransferAnswer,
  dp,
  encodeRequest,
  encodeTransfer,
  lineReset,
  openDebugPort,
  toSerialWire,
  wireAck,
  type FlashController,
} from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 31 + (at >> 8)) & 255)

describe('requests on the wire', () => {
  // Source: IHI 0031, B4.2.1 and table B2: the eight bits of each request, least significant first, with their parity. The
  // bytes are in wide use: A5 reads the identity, 81 writes ABORT (from memory).
  it.each([
    [0xa5, 'dp', true, dp.id],
    [0x81, 'dp', false, dp.abort],
    [0x8d, 'dp', true, dp.control],
    [0xa9, 'dp', false, dp.control],
    [0xb1, 'dp', false, dp.select],
    [0xbd, 'dp', true, dp.buffer],
    [0x87, 'ap', true, ap.control],
    [0xa3, 'ap', false, ap.control],
    [0x8b, 'ap', false, ap.address],
    [0x9f, 'ap', true, ap.data],
    [0xbb, 'ap', false, ap.data],
  ] as const)('0x%s', (byte, port, read, register) => {
    const request = { port, read, register: register as 0 | 4 | 8 | 12 }
    expect(encodeRequest(request)).toBe(byte)
    expect(decodeRequest(byte)).toEqual(request)
  })
  // Source: IHI 0031, B4.2.1: start 1, stop 0, park 1 and an even parity; anything else is no request.
  it('with one bit flipped are none', () => {
    for (const byte of [0xa5, 0x81, 0xb1, 0x9f]) {
      for (let bit = 0; bit < 8; bit++) {
        const other = decodeRequest(byte ^ (1 << bit))
        // Only a flipped pair could be another good request.
        expect(other).toBeNull()
      }
    }
  })
  // Source: worked by hand.
  it('carry an even parity of their word', () => {
    expect([0, 1, 3, 0x80000000, 0xffffffff, 0x2ba01477].map(dataParity)).toEqual([0, 1, 0, 1, 0, 0])
  })
  // Source: IHI 0031, B4.2.2: 001 OK, 010 WAIT, 100 FAULT, least significant bit first on the wire.
  it('are acknowledged in three bits', () => {
    expect(wireAck).toEqual({ ok: 1, wait: 2, fault: 4, none: 7 })
  })
  // Source: IHI 0031, C2.6.4: size in bits 0 to 2, single auto-increment in 4 and 5.
  it('set the width of memory accesses', () => {
    expect([1, 2, 4].map((bytes) => accessControl(bytes as 1) & 0x37)).toEqual([0x10, 0x11, 0x12])
  })
})

describe('packets of an adapter', () => {
  // Source: CMSIS-DAP reference, DAP_Transfer: command, index, count, then request bytes with their words.
  it('hold accesses one after the other', () => {
    const packet = encodeTransfer([
      { port: 'dp', read: true, register: dp.id },
      { port: 'ap', read: false, register: 0x4, value: 0x20000010 },
    ])
    expect([...packet]).toEqual([5, 0, 2, 0x02, 0x05, 0x10, 0x00, 0x00, 0x20])
    expect(dapRequestByte({ port: 'ap', read: true, register: 0xc })).toBe(0x0f)
  })
  it('of any bytes are read without throwing', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 70 }), (bytes) => {
        decodeTransferAnswer(bytes)
        decodeBlockAnswer(bytes)
      }),
    )
  })
})

describe('a unit on the wire', () => {
  const memory: TargetMemory = {
    read: (address) => (address === 0x20000000 ? 0x12345678 : null),
    write: (address) => address === 0x20000000,
  }
  const request = (port: 'dp' | 'ap', read: boolean, register: number) =>
    encodeRequest({ port, read, register: register as 0 })
  const chosen = () => {
    const target = wireTarget(0x2ba01477, memory)
    for (const [bytes, count] of [
      [lineReset, 56],
      [toSerialWire, 16],
      [lineReset, 56],
      [Uint8Array.of(0), 8],
    ] as const)
      target.bits(bytes, count)
    return target
  }
  it('is silent until it is turned to serial wire', () => {
    expect(wireTarget(1, memory).access(0xa5).ack).toBe(wireAck.none)
    expect(chosen().access(0xa5)).toEqual({ ack: wireAck.ok, value: 0x2ba01477 })
  })
  // Source: IHI 0031, B4.3.3: after a line reset the identity is read first.
  it('gives nothing but its identity after a line reset', () => {
    expect(chosen().access(request('dp', true, dp.control)).ack).toBe(wireAck.none)
  })
  // Source: IHI 0031, B2.2.2: a fault sets the sticky error; until ABORT clears it every access port access faults.
  it('keeps a fault until it is cleared', () => {
    const target = chosen()
    target.access(0xa5)
    target.access(request('dp', false, dp.control), 0x50000000)
    target.access(request('ap', false, ap.control), accessControl(4))
    target.access(request('ap', false, ap.address), 0x30000000)
    expect(target.access(request('ap', true, ap.data)).ack).toBe(wireAck.fault)
    expect(target.access(request('ap', false, ap.address), 0x20000000).ack).toBe(wireAck.fault)
    expect(target.access(request('dp', true, dp.control)).value! & 0x20).toBe(0x20)
    target.access(request('dp', false, dp.abort), 0x1e)
    expect(target.access(request('ap', false, ap.address), 0x20000000).ack).toBe(wireAck.ok)
    // A read is posted: its word comes with the next access.
    target.access(request('ap', true, ap.data))
    expect(target.access(request('dp', true, dp.buffer))).toEqual({ ack: wireAck.ok, value: 0x12345678 })
  })
  it('that asks to wait is asked again by the adapter', async () => {
    let waits = 3
    const slow = wireTarget(1, { ...memory, write: () => (waits-- > 0 ? 'wait' : true) })
    const probe = dapProbe({ wire: slow }, virtualClock(turn), 64, 'probe')
    await probe(Uint8Array.of(0x04, 0, 5, 0, 0, 0))
    for (const bytes of [lineReset, toSerialWire, lineReset, Uint8Array.of(0)])
      await probe(Uint8Array.of(0x12, bytes.length * 8, ...bytes))
    const done = decodeTransferAnswer(
      await probe(
        encodeTransfer([
          { port: 'dp', read: true, register: dp.id },
          { port: 'dp', read: false, register: dp.control, value: 0x50000000 },
          { port: 'ap', read: false, register: 0xc, value: 1 },
        ]),
      ),
    )
    expect(done).toMatchObject({ count: 3, ack: wireAck.ok })
    expect(waits).toBe(-1)
  })
})

/** Registers in the form of many small microcontrollers: keys, status, control, address. */
const flash: FlashController = {
  keyRegister: 0x40022004,
  keys: [0x45670123, 0xcdef89ab],
  statusRegister: 0x4002200c,
  busy: 1,
  errors: 0x14,
  controlRegister: 0x40022010,
  program: 1,
  pageErase: 2,
  massErase: 4,
  start: 0x40,
  lock: 0x80,
  addressRegister: 0x40022014,
  width: 2,
  pageBytes: 1024,
  protection: { register: 0x4002201c, mask: 2 },
}
const base = 0x08000000

function bench(
  version: 1 | 2 = 2,
  form: {
    protected?: boolean
    width?: 2 | 4
    joined?: boolean
    target?: TargetForm
    drive?: { accessPort?: number; underReset?: boolean }
  } = {},
) {
  const clock = virtualClock(turn)
  const bytes = patterned(0x4000)
  const protection = { on: !!form.protected }
  let resets = 0
  const settings = { ...flash, width: form.width ?? flash.width }
  const memory = microcontroller({
    clock,
    controller: (part) => registerController(settings, part),
    base,
    bytes,
    eraseMs: 22,
    programMs: 0.05,
    protection,
    words: new Map([[0x20000000, 7]]),
    onReset: () => resets++,
  })
  const target =
    form.joined === false
      ? { access: () => ({ ack: wireAck.none }), bits: () => {} }
      : wireTarget(0x0bc11477, memory, form.target)
  const device = dapAdapterDevice({ clock, ends: { wire: target }, version, serial: '7' })
  const usb = usbDevice({ name: 'adapter', clock, now: () => device })
  const loader = debugLoader(
    usb,
    clock,
    { hertz: 4_000_000, flash: settings, eraseMs: 22, ...form.drive },
    async () => [],
  )
  return { clock, bytes, usb, loader, protection, memory, resets: () => resets }
}

describe.each([1, 2] as const)('an adapter of version %i', (version) => {
  it('reads and writes memory, across the edges of the auto-increment', async () => {
    const { usb, clock, bytes } = bench(version)
    await usb.open()
    const port = await openDebugPort(await dapAdapter(usb), clock, 1_000_000)
    expect(port.identity).toBe(0x0bc11477)
    expect(equalBytes(await port.readBlock(base + 0x3f0, 0x900), bytes.subarray(0x3f0, 0x3f0 + 0x900))).toBe(
      true,
    )
    await port.write(0x20000000, 0xdeadbeef)
    expect(await port.read(0x20000000)).toBe(0xdeadbeef)
  })
  it('tells a fault with its address and goes on after it', async () => {
    const { usb, clock } = bench(version)
    await usb.open()
    const port = await openDebugPort(await dapAdapter(usb), clock, 1_000_000)
    const error = await port.read(0x30000000).catch((reason: unknown) => reason)
    expect(isProblem(error, 'debug-fault') && error.facts.place?.at).toBe('0x30000000')
    expect(await port.read(0x20000000)).toBe(7)
  })
})

describe('a unit written through its debug port', () => {
  it.each([2, 4] as const)('in accesses of %i bytes: erase, write, read back, reset', async (width) => {
    const { usb, loader, bytes, resets } = bench(2, { width })
    await usb.open()
    await loader.attach()
    const image = patterned(5001).map((byte) => byte ^ 0x5a)
    const backup = await loader.read!({ address: base, length: 0x4000 }, () => {})
    expect(equalBytes(backup, patterned(0x4000))).toBe(true)
    await loader.erase({ address: base + 0x1000, length: image.length }, () => {})
    expect([...new Set(bytes.subarray(0x1000, 0x1000 + 5120))]).toEqual([255])
    expect(bytes[0xfff]).toBe(patterned(0x4000)[0xfff])
    await loader.write(base + 0x1000, image, () => {}, { raised: false })
    expect(await loader.verify(base + 0x1000, image)).toMatchObject({ outcome: 'equal-read-back' })
    bytes[0x1234]! ^= 4
    expect(await loader.verify(base + 0x1000, image)).toMatchObject({
      outcome: 'different',
      found: 'the first difference at 0x08001234',
    })
    await loader.startApplication()
    expect(resets()).toBe(1)
  })
  // Source: Arm ADIv5.2, C2.2.6: an access of a word is to an address of a word.
  it.each([1, 2, 3])(
    'from an address that is %i beside a word is read back as it was sent',
    async (beside) => {
      const { usb, loader, bytes } = bench(2, { width: 2 })
      await usb.open()
      await loader.attach()
      const image = patterned(3001).map((byte) => byte ^ 0x5a)
      const at = 0x1000 + beside
      await loader.erase({ address: base + at, length: image.length }, () => {})
      await loader.write(base + at, image, () => {}, { raised: false })
      expect(equalBytes(bytes.subarray(at, at + image.length), image)).toBe(true)
      expect((await loader.verify(base + at, image)).outcome).toBe('equal-read-back')
      expect(
        equalBytes(
          await loader.read!({ address: base + at, length: 2050 }, () => {}),
          image.subarray(0, 2050),
        ),
      ).toBe(true)
      bytes[at + 3000]! ^= 1
      expect((await loader.verify(base + at, image)).outcome).toBe('different')
    },
  )
  it('without an erase before it is not what was sent, and the read-back says so', async () => {
    const { usb, loader } = bench()
    await usb.open()
    await loader.attach()
    const image = patterned(1024).map((byte) => byte ^ 0xff)
    await loader.write(base, image, () => {}, { raised: false })
    expect((await loader.verify(base, image)).outcome).toBe('different')
  })
  // Common practice: taking a read-out protection away erases the unit.
  it('that is protected says so, and is erased only with consent', async () => {
    const { usb, loader, bytes, protection } = bench(2, { protected: true })
    await usb.open()
    await loader.attach()
    expect(await loader.protected()).toBe(true)
    await expect(loader.erase({ address: base, length: 1024 }, () => {})).rejects.toMatchObject({
      facts: { kind: 'debug-protected' },
    })
    await expect(loader.read!({ address: base, length: 64 }, () => {})).rejects.toMatchObject({
      facts: { kind: 'debug-fault' },
    })
    await expect(loader.eraseAll!('yes' as 'erase the whole unit')).rejects.toThrow(TypeError)
    expect(protection.on).toBe(true)
    await loader.eraseAll!('erase the whole unit')
    expect(protection.on).toBe(false)
    expect([...new Set(bytes)]).toEqual([255])
  })
  it('behind another access port is reached through it, and through no other', async () => {
    const far = { target: { accessPort: 1 }, drive: { accessPort: 1 } }
    const { usb, loader } = bench(2, far)
    await usb.open()
    await loader.attach()
    expect(await loader.read!({ address: base, length: 64 }, () => {})).toEqual(patterned(64))
    const near = bench(2, { target: { accessPort: 1 } })
    await near.usb.open()
    await expect(near.loader.attach()).rejects.toMatchObject({
      facts: { kind: 'debug-no-access-port', says: 'the unit has no access port 0' },
    })
  })
  // Common practice: where the firmware takes the debug pads, the reset is held while the unit is joined.
  it('whose firmware takes the pads is joined with its reset held, and stands at its first instruction', async () => {
    const shut = bench(2, { target: { shutsPort: true } })
    await shut.usb.open()
    await expect(shut.loader.attach()).rejects.toMatchObject({ facts: { kind: 'no-bootloader' } })
    const { usb, loader, bytes, resets, memory } = bench(2, {
      target: { shutsPort: true },
      drive: { underReset: true },
    })
    await usb.open()
    await loader.attach()
    const image = patterned(1024).map((byte) => byte ^ 0x5a)
    await loader.erase({ address: base, length: 1024 }, () => {})
    await loader.write(base, image, () => {}, { raised: false })
    expect((await loader.verify(base, image)).outcome).toBe('equal-read-back')
    expect(bytes.subarray(0, 1024)).toEqual(image)
    expect(resets()).toBe(1)
    await loader.startApplication()
    // By its reset line, since its firmware has the pads once it runs; it does, and stands no more.
    expect(resets()).toBe(2)
    expect(memory.isHalted!()).toBe(false)
  })
  it('that could not be joined is not left with its reset held', async () => {
    const { usb, loader, resets } = bench(2, { target: { accessPort: 1 }, drive: { underReset: true } })
    await usb.open()
    await expect(loader.attach()).rejects.toMatchObject({ facts: { kind: 'debug-no-access-port' } })
    // Each try let go of it again.
    expect(resets()).toBeGreaterThan(0)
  })
  it('that is not joined is said to be so, with what to look at', async () => {
    const { usb, loader } = bench(2, { joined: false })
    await usb.open()
    await expect(loader.attach()).rejects.toMatchObject({
      facts: { kind: 'no-bootloader', remedy: expect.stringContaining('ground, clock and data') },
    })
  })
})
