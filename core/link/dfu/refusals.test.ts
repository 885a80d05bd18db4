import { dfuMachine, usbDevice, type UsbConfiguration } from '@bench-wake/standins'
import { describe, expect, it } from 'vitest'
import { concatBytes, virtualClock } from '../../kernel'
import type { ControlSetup, UsbPort } from '../usb'
import {
  dfuLoader,
  dfuRequest,
  writeFunction,
  writeStatus,
  type DfuFunction,
  type DfuState,
  type DfuStatus,
} from '.'
import { usualFunction } from './dfu.test-support'
import { factsOf } from '../refusal.test-support'

/*
 * A device that does not end where the standard says that a transfer ends, or says what cannot be. Source: DFU 1.1, annex A.2
 * (a whole file leads over manifestation to dfuIDLE, or to the wait for a reset), clause 6.1.2 status, table 4.2 wTransferSize.
 */

const turn = () => new Promise<void>((done) => setImmediate(done))

function bench(shape: Partial<DfuFunction> = {}) {
  const clock = virtualClock(turn)
  const own = { ...usualFunction, ...shape }
  const memory = new Uint8Array(0x2000).fill(0xff)
  const machine = dfuMachine(
    'logger',
    clock,
    {
      form: own,
      blockMs: () => 5,
      manifestMs: 20,
      async program(at, data) {
        memory.set(data, at)
        return 0
      },
      finish: () => 0,
      readBack: (at, length) => memory.slice(at, at + length),
      intact: () => true,
    },
    'dfuIDLE',
  )
  const configuration: UsbConfiguration = {
    vendorId: 1,
    productId: 2,
    strings: [],
    interfaces: concatBytes([Uint8Array.of(9, 4, 0, 0, 0, 0xfe, 1, 2, 0), writeFunction(own)]),
    control: (setup, direction, length, data) => machine.control(setup, direction, length, data),
  }
  const onReset = () => machine.reset()
  const device = usbDevice({ name: 'logger', clock, now: () => configuration, onReset })
  /** Answers to a request that are put in the place of its own, one after the other. */
  const forged: (Uint8Array | null)[] = []
  let statuses = 0
  let whole = false
  const port: UsbPort = {
    name: device.name,
    open: () => device.open(),
    close: () => device.close(),
    claimInterface: (number, alternate) => device.claimInterface(number, alternate),
    transferIn: (endpoint, length) => device.transferIn(endpoint, length),
    transferOut: (endpoint, data) => device.transferOut(endpoint, data),
    reset: () => device.reset(),
    reopen: (timeoutMs) => device.reopen(timeoutMs),
    async controlOut(setup, data) {
      if (setup.request === dfuRequest.download && !data?.length) whole = true
      await device.controlOut(setup, data)
    },
    async controlIn(setup: ControlSetup, length) {
      const answer = await device.controlIn(setup, length)
      if (setup.type !== 'class' || setup.request !== dfuRequest.getStatus || !whole) return answer
      statuses++
      return forged.shift() ?? answer
    },
  }
  const loader = dfuLoader(port, clock, async () => [])
  const attached = async () => {
    await port.open()
    await loader.attach()
  }
  return { clock, loader, forged, attached, memory, statuses: () => statuses }
}
const status = (state: DfuState, more: Partial<DfuStatus> = {}) =>
  writeStatus({ status: 0, pollMs: 1, state, ...more })
const image = Uint8Array.from({ length: 3000 }, (_, at) => at & 255)
const write = (loader: ReturnType<typeof bench>['loader']) =>
  loader.write(0, image, () => {}, { raised: false })

describe('the end of a file', () => {
  it('is idle again after the manifestation', async () => {
    const { attached, loader } = bench()
    await attached()
    expect(await factsOf(write(loader))).toBeNull()
  })
  it.each(['dfuDNLOAD-IDLE', 'dfuUPLOAD-IDLE', 'appIDLE', 'appDETACH'] as const)(
    'that leaves the device in %s is none: it still waits for more, or took nothing',
    async (state) => {
      const { attached, loader, forged } = bench()
      await attached()
      forged.push(status(state))
      expect(await factsOf(write(loader))).toMatchObject({ kind: 'dfu-error', place: { offset: 3000 } })
    },
  )
  it('that the device refuses says why', async () => {
    const { attached, loader, forged } = bench()
    await attached()
    forged.push(status('dfuERROR', { status: 10 }))
    expect(await factsOf(write(loader))).toMatchObject({
      kind: 'dfu-error',
      found: 'the firmware is damaged: it cannot leave update mode',
    })
  })
  it('is waited for as long as the device asks, and a minute in all', async () => {
    const { attached, loader, forged, statuses, clock } = bench()
    await attached()
    forged.push(...Array.from({ length: 30 }, () => status('dfuMANIFEST-SYNC', { pollMs: 2000 })))
    expect(await factsOf(write(loader))).toBeNull()
    expect(statuses()).toBe(31)
    const stuck = bench()
    await stuck.attached()
    stuck.forged.push(...Array.from({ length: 40 }, () => status('dfuMANIFEST-SYNC', { pollMs: 2000 })))
    expect(await factsOf(write(stuck.loader))).toMatchObject({ kind: 'dfu-error' })
    expect(stuck.statuses()).toBe(31)
    expect(stuck.clock.now()).toBeLessThan(62_000)
    expect(clock.now()).toBeGreaterThan(60_000)
  })
  it.each([
    ['of five bytes', Uint8Array.of(0, 0, 0, 0, 2)],
    ['of a state that there is not', Uint8Array.of(0, 0, 0, 0, 11, 0)],
  ])('with a status %s makes no sense', async (_, answer) => {
    const { attached, loader, forged } = bench()
    await attached()
    forged.push(answer)
    expect(await factsOf(write(loader))).toMatchObject({ kind: 'dfu-status' })
  })
})

describe('a device', () => {
  it('that takes no bytes a block is not begun with', async () => {
    const { attached } = bench({ transferBytes: 0 })
    expect(await factsOf(attached())).toMatchObject({ kind: 'dfu-function', found: 'blocks of 0 bytes' })
  })
  it('that takes no downloads is not begun with', async () => {
    const { attached } = bench({ canDownload: false })
    expect(await factsOf(attached())).toMatchObject({ kind: 'dfu-function', found: 'it takes no downloads' })
  })
  it('without upload is not compared, and not called equal', async () => {
    const { attached, loader } = bench({ canUpload: false })
    await attached()
    await write(loader)
    expect(loader.can).toMatchObject({ read: false, verify: 'version-only' })
    expect((await loader.verify(0, image)).outcome).toBe('version-only')
  })
  it('that gives fewer bytes than its memory holds gives no backup', async () => {
    const { attached, loader } = bench()
    await attached()
    expect(await factsOf(loader.read!({ address: 0, length: 0x2001 }, () => {}))).toMatchObject({
      kind: 'dfu-short',
      expected: '8193 bytes',
      found: '8192 bytes',
    })
    await loader.attach()
    expect((await loader.read!({ address: 0, length: 0x2000 }, () => {})).length).toBe(0x2000)
  })
  it('one byte of which differs is told, the last one too', async () => {
    const { attached, loader, memory } = bench()
    await attached()
    await write(loader)
    expect((await loader.verify(0, image)).outcome).toBe('equal-read-back')
    memory[2999]! ^= 1
    expect((await loader.verify(0, image)).outcome).toBe('different')
  })
})
