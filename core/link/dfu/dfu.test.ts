import { usbDevice, type UsbConfiguration, dfuMachine, type DfuMachine } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { concatBytes, equalBytes, isProblem, virtualClock } from '../../kernel'
import { deviceDescriptor, interfacesOf, readInterfaces, stringOf } from '../usb'
import {
  dfuInterface,
  dfuLoader,
  dfuStates,
  dfuStep,
  readFunction,
  readStatus,
  writeFunction,
  writeStatus,
  type DfuContext,
  type DfuEvent,
  type DfuFunction,
  type DfuMemory,
  type DfuState,
} from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 31 + (at >> 8)) & 255)
const usual: DfuContext = {
  canDownload: true,
  canUpload: true,
  manifestationTolerant: true,
  willDetach: true,
  busy: false,
  manifesting: false,
  intact: true,
}

describe('the state table', () => {
  // Source: DFU 1.1, annex A.2, "Interface state transition diagram" and its tables, walked row by row (from memory of the
  // published tables). `!` marks a request that is refused by a stall.
  const rows: [DfuState, DfuEvent, string, Partial<DfuContext>?][] = [
    // A.2.1 appIDLE
    ['appIDLE', 'detach', 'appDETACH'],
    ['appIDLE', 'get-status', 'appIDLE'],
    ['appIDLE', 'get-state', 'appIDLE'],
    ['appIDLE', 'download', '! appIDLE'],
    ['appIDLE', 'upload', '! appIDLE'],
    ['appIDLE', 'reset', 'appIDLE'],
    // A.2.2 appDETACH
    ['appDETACH', 'get-status', 'appDETACH'],
    ['appDETACH', 'get-state', 'appDETACH'],
    ['appDETACH', 'download', '! appIDLE'],
    ['appDETACH', 'timeout', 'appIDLE'],
    ['appDETACH', 'reset', 'dfuIDLE'],
    // A.2.3 dfuIDLE
    ['dfuIDLE', 'download', 'dfuDNLOAD-SYNC'],
    ['dfuIDLE', 'download', '! dfuERROR', { canDownload: false }],
    ['dfuIDLE', 'download-end', '! dfuERROR'],
    ['dfuIDLE', 'upload', 'dfuUPLOAD-IDLE'],
    ['dfuIDLE', 'upload', '! dfuERROR', { canUpload: false }],
    ['dfuIDLE', 'abort', 'dfuIDLE'],
    ['dfuIDLE', 'get-status', 'dfuIDLE'],
    ['dfuIDLE', 'get-state', 'dfuIDLE'],
    ['dfuIDLE', 'detach', '! dfuERROR'],
    ['dfuIDLE', 'clear-status', '! dfuERROR'],
    ['dfuIDLE', 'reset', 'appIDLE'],
    ['dfuIDLE', 'reset', 'dfuERROR', { intact: false }],
    // A.2.4 dfuDNLOAD-SYNC
    ['dfuDNLOAD-SYNC', 'get-status', 'dfuDNBUSY', { busy: true }],
    ['dfuDNLOAD-SYNC', 'get-status', 'dfuDNLOAD-IDLE'],
    ['dfuDNLOAD-SYNC', 'get-state', 'dfuDNLOAD-SYNC'],
    ['dfuDNLOAD-SYNC', 'download', '! dfuERROR'],
    ['dfuDNLOAD-SYNC', 'abort', '! dfuERROR'],
    // A.2.5 dfuDNBUSY
    ['dfuDNBUSY', 'timeout', 'dfuDNLOAD-SYNC'],
    ['dfuDNBUSY', 'get-status', '! dfuERROR'],
    ['dfuDNBUSY', 'download', '! dfuERROR'],
    // A.2.6 dfuDNLOAD-IDLE
    ['dfuDNLOAD-IDLE', 'download', 'dfuDNLOAD-SYNC'],
    ['dfuDNLOAD-IDLE', 'download-end', 'dfuMANIFEST-SYNC'],
    ['dfuDNLOAD-IDLE', 'download-end-refused', '! dfuERROR'],
    ['dfuDNLOAD-IDLE', 'abort', 'dfuIDLE'],
    ['dfuDNLOAD-IDLE', 'get-status', 'dfuDNLOAD-IDLE'],
    ['dfuDNLOAD-IDLE', 'upload', '! dfuERROR'],
    // A.2.7 dfuMANIFEST-SYNC
    ['dfuMANIFEST-SYNC', 'get-status', 'dfuMANIFEST', { manifesting: true }],
    ['dfuMANIFEST-SYNC', 'get-status', 'dfuIDLE'],
    ['dfuMANIFEST-SYNC', 'get-state', 'dfuMANIFEST-SYNC'],
    ['dfuMANIFEST-SYNC', 'download', '! dfuERROR'],
    // A.2.8 dfuMANIFEST
    ['dfuMANIFEST', 'timeout', 'dfuMANIFEST-SYNC'],
    ['dfuMANIFEST', 'timeout', 'dfuMANIFEST-WAIT-RESET', { manifestationTolerant: false }],
    ['dfuMANIFEST', 'get-status', '! dfuERROR'],
    // A.2.9 dfuMANIFEST-WAIT-RESET
    ['dfuMANIFEST-WAIT-RESET', 'get-status', '! dfuMANIFEST-WAIT-RESET'],
    ['dfuMANIFEST-WAIT-RESET', 'reset', 'appIDLE'],
    // A.2.10 dfuUPLOAD-IDLE
    ['dfuUPLOAD-IDLE', 'upload', 'dfuUPLOAD-IDLE'],
    ['dfuUPLOAD-IDLE', 'upload-short', 'dfuIDLE'],
    ['dfuUPLOAD-IDLE', 'abort', 'dfuIDLE'],
    ['dfuUPLOAD-IDLE', 'get-status', 'dfuUPLOAD-IDLE'],
    ['dfuUPLOAD-IDLE', 'download', '! dfuERROR'],
    // A.2.11 dfuERROR
    ['dfuERROR', 'get-status', 'dfuERROR'],
    ['dfuERROR', 'get-state', 'dfuERROR'],
    ['dfuERROR', 'clear-status', 'dfuIDLE'],
    ['dfuERROR', 'download', '! dfuERROR'],
    ['dfuERROR', 'abort', '! dfuERROR'],
    ['dfuERROR', 'reset', 'appIDLE'],
  ]
  it.each(rows)('%s, %s: %s', (state, event, expected, context = {}) => {
    const { to, stalls } = dfuStep(state, event, { ...usual, ...context })
    expect(`${stalls ? '! ' : ''}${to}`).toBe(expected)
  })
  it('has every state of the standard', () => {
    expect(new Set(rows.map(([state]) => state)).size).toBe(dfuStates.length)
  })
})

const function11: DfuFunction = {
  canDownload: true,
  canUpload: true,
  manifestationTolerant: true,
  willDetach: false,
  detachMs: 255,
  transferBytes: 1024,
  version: 0x0110,
}

describe('descriptors and answers', () => {
  // Source: DFU 1.1, table 4.2: length 9, type 21, attributes, wDetachTimeOut, wTransferSize, bcdDFUVersion.
  it('the functional descriptor is nine bytes', () => {
    expect([...writeFunction(function11)]).toEqual([9, 0x21, 0x07, 0xff, 0, 0, 4, 0x10, 1])
    expect(readFunction(writeFunction(function11))).toEqual(function11)
  })
  // Source: DFU 1.1, clause 6.1.2: status, 24 bits of poll time, state, string index.
  it('a status is six bytes', () => {
    expect(readStatus(Uint8Array.of(0, 0x2c, 1, 0, 4, 0))).toEqual({
      status: 0,
      pollMs: 300,
      state: 'dfuDNBUSY',
    })
    expect([...writeStatus({ status: 10, pollMs: 0x010203, state: 'dfuERROR' })]).toEqual([
      10, 3, 2, 1, 10, 0,
    ])
    expect(readStatus(Uint8Array.of(0, 0, 0, 0, 11, 0))).toBeNull()
  })
  it('of any bytes are read without throwing', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 64 }), (bytes) => {
        readStatus(bytes)
        readFunction(bytes)
        dfuInterface(readInterfaces(bytes))
      }),
    )
  })
})

/** A logger with update mode, as it stands at its plug. */
function bench(
  form: Partial<DfuFunction> & { starts?: 'app' | 'update'; failsAt?: number; blockMs?: number } = {},
) {
  const clock = virtualClock(turn)
  const shape = { ...function11, ...form }
  const memory = new Uint8Array(0x8000).fill(0xff)
  let intact = true
  let inUpdate = form.starts !== 'app'
  const interfaceOf = (running: boolean) =>
    concatBytes([Uint8Array.of(9, 4, 0, 0, 0, 0xfe, 1, running ? 1 : 2, 4), writeFunction(shape)])
  const device = {
    form: shape,
    blockMs: () => form.blockMs ?? 12,
    manifestMs: 50,
    async program(at: number, data: Uint8Array) {
      if (form.failsAt !== undefined && at >= form.failsAt) return 6
      intact = false
      memory.set(data, at)
      return 0
    },
    finish: (length: number) => {
      intact = length >= 4
      return intact ? 0 : 9
    },
    readBack: (at: number, length: number) => memory.slice(at, at + length),
    intact: () => intact,
  }
  const machine: DfuMachine = dfuMachine('logger', clock, device, inUpdate ? 'dfuIDLE' : 'appIDLE')
  const configuration = (running: boolean): UsbConfiguration => ({
    vendorId: 0xf0a1,
    productId: running ? 8 : 9,
    strings: ['Corrie Sound', 'TL-2', '2107', running ? 'running' : 'update'],
    interfaces: interfaceOf(running),
    control: (setup, direction, length, data) => machine.control(setup, direction, length, data),
  })
  const both = { app: configuration(true), update: configuration(false) }
  const port = usbDevice({
    name: 'logger',
    clock,
    now: () => (inUpdate ? both.update : both.app),
    onReset() {
      machine.reset()
      inUpdate = machine.state === 'dfuIDLE' || machine.state === 'dfuERROR'
    },
  })
  return { clock, memory, port, inUpdate: () => inUpdate }
}

describe('a device at its plug', () => {
  // Source: USB 2.0, clause 9.6: descriptors and strings.
  it('says what it is', async () => {
    const { port } = bench()
    await port.open()
    expect(await deviceDescriptor(port)).toMatchObject({ vendorId: 0xf0a1, productId: 9, serial: 3 })
    expect(await stringOf(port, 3)).toBe('2107')
    expect(dfuInterface(await interfacesOf(port))).toMatchObject({ number: 0, running: false })
  })
  it('writes, reads back, and starts its firmware', async () => {
    const { port, clock, memory, inUpdate } = bench()
    const loader = dfuLoader(port, clock, async () => [])
    await port.open()
    await loader.attach()
    const image = patterned(20_000)
    const seen: number[] = []
    await loader.write(0, image, ({ done }) => void seen.push(done), { raised: false })
    expect(seen.at(-1)).toBe(20_000)
    expect(equalBytes(memory.subarray(0, 20_000), image)).toBe(true)
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-read-back' })
    memory[777]! ^= 1
    expect(await loader.verify(0, image)).toMatchObject({
      outcome: 'different',
      found: expect.stringContaining('777'),
    })
    expect((await loader.read!({ address: 0, length: 0x8000 }, () => {})).length).toBe(0x8000)
    await loader.startApplication()
    expect(inUpdate()).toBe(false)
  })
  // Source: DFU 1.1, clause 5.1: detach, then a reset within the time, and the device comes back in update mode.
  it('goes from its firmware to update mode by detach and reset', async () => {
    const { port, clock, inUpdate } = bench({ starts: 'app' })
    await port.open()
    await dfuLoader(port, clock, async () => []).attach()
    expect(inUpdate()).toBe(true)
  })
  // Source: DFU 1.1, clause 6.1.2: bwPollTimeout is how long the host waits before it asks again.
  it('is not asked before its poll time is over', async () => {
    const { port, clock } = bench({ blockMs: 400 })
    const loader = dfuLoader(port, clock, async () => [])
    await port.open()
    await loader.attach()
    const began = clock.now()
    await loader.write(0, patterned(4096), () => {}, { raised: false })
    // Four blocks and the manifestation, with little around them.
    expect(clock.now() - began).toBeGreaterThanOrEqual(4 * 400 + 50)
    expect(clock.now() - began).toBeLessThan(4 * 400 + 50 + 30)
  })
  // Source: DFU 1.1, clause 7.2: without tolerance the device waits for a reset and answers nothing meanwhile.
  it('that is not manifestation tolerant is proved by its version alone', async () => {
    const { port, clock, inUpdate } = bench({ manifestationTolerant: false })
    const loader = dfuLoader(port, clock, async () => [])
    await port.open()
    await loader.attach()
    await loader.write(0, patterned(3000), () => {}, { raised: false })
    expect((await loader.verify(0, patterned(3000))).outcome).toBe('version-only')
    await loader.startApplication()
    expect(inUpdate()).toBe(false)
  })
  // Source: DFU 1.1, clause 6.1.2: errPROG 06.
  it('that cannot program says so in words and at which byte, and takes a second try', async () => {
    const { port, clock } = bench({ failsAt: 2048 })
    const loader = dfuLoader(port, clock, async () => [])
    await port.open()
    await loader.attach()
    const error = await loader
      .write(0, patterned(4096), () => {}, { raised: false })
      .catch((reason: unknown) => reason)
    expect(isProblem(error, 'dfu-error') && error.facts).toMatchObject({
      place: { offset: 2048 },
      found: 'programming failed',
    })
    await loader.attach()
    await loader.write(0, patterned(2048), () => {}, { raised: false })
  })
  it('that is pulled says that it went away', async () => {
    const { port, clock } = bench()
    await port.open()
    const loader = dfuLoader(port, clock, async () => [])
    await loader.attach()
    const writing = loader.write(0, patterned(20_000), ({ done }) => void (done > 4000 && port.pull()), {
      raised: false,
    })
    await expect(writing).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
  })
})

/** A device in update mode with several memories, each an alternate setting with its string (index 4 and on). */
function withMemories(...names: string[]) {
  const clock = virtualClock(turn)
  const memories = names.map(() => new Uint8Array(0x2000).fill(0xff))
  let chosen: number | null = null
  const machine = dfuMachine(
    'two memories',
    clock,
    {
      form: function11,
      blockMs: () => 1,
      manifestMs: 1,
      async program(at, data) {
        memories[chosen!]!.set(data, at)
        return 0
      },
      finish: () => 0,
      readBack: (at, length) => memories[chosen!]!.slice(at, at + length),
      intact: () => true,
    },
    'dfuIDLE',
  )
  const device: UsbConfiguration = {
    vendorId: 0xf0a1,
    productId: 9,
    strings: ['Corrie Sound', 'TL-2', '2107', ...names],
    // DFU 1.1, clause 4.2.3: an interface descriptor for each setting, the functional descriptor once behind them.
    interfaces: concatBytes([
      ...names.map((name, index) => Uint8Array.of(9, 4, 0, index, 0, 0xfe, 1, 2, name ? 4 + index : 0)),
      writeFunction(function11),
    ]),
    claim: (_, alternate) => void (chosen = alternate),
    control: (setup, direction, length, data) => machine.control(setup, direction, length, data),
  }
  return { clock, memories, port: usbDevice({ name: 'two memories', clock, now: () => device }) }
}

describe('a device with several memories', () => {
  const image = patterned(3000)
  const written = async (memory: DfuMemory | undefined, ...names: string[]) => {
    const { clock, memories, port } = withMemories(...names)
    await port.open()
    const loader = dfuLoader(port, clock, async () => [], memory)
    await loader.attach()
    await loader.write(0, image, () => {}, { raised: false })
    expect((await loader.verify(0, image)).outcome).toBe('equal-read-back')
    return memories.map((bytes) => equalBytes(bytes.subarray(0, image.length), image))
  }
  it.each<[DfuMemory | undefined, string[], boolean[]]>([
    [{ alternate: 0 }, ['Firmware', 'Settings'], [true, false]],
    [{ alternate: 1 }, ['Firmware', 'Settings'], [false, true]],
    [{ named: 'Firm' }, ['Firmware', 'Settings'], [true, false]],
    [{ named: 'Settings' }, ['Firmware', 'Settings'], [false, true]],
    // A name that is there whole is meant, even where another begins with it.
    [{ named: 'Main' }, ['Main 2', 'Main'], [false, true]],
    [undefined, ['Firmware'], [true]],
  ])('is written where %j says, of %j', async (memory, names, holds) => {
    expect(await written(memory, ...names)).toEqual(holds)
  })
  it.each<[DfuMemory | undefined, string[], string]>([
    [undefined, ['Firmware', 'Settings'], 'several'],
    [{ named: 'Main' }, ['Main 1', 'Main 2'], 'several'],
    [{ alternate: 2 }, ['Firmware', 'Settings'], 'no such'],
    [{ named: 'Other' }, ['Firmware', ''], 'no such'],
  ])('is not written where %j leaves it open, of %j', async (memory, names, says) => {
    const { clock, memories, port } = withMemories(...names)
    await port.open()
    const failure = await dfuLoader(port, clock, async () => [], memory)
      .attach()
      .catch((error: unknown) => error)
    expect(isProblem(failure, 'dfu-alternate') && failure.facts.says).toContain(says)
    expect(isProblem(failure) && failure.facts.found).toBe(
      names.map((name, index) => (name ? `${index} “${name}”` : `${index}`)).join(', '),
    )
    expect(memories.every((bytes) => bytes.every((byte) => byte === 0xff))).toBe(true)
  })
})
