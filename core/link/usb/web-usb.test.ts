import { describe, expect, it, vi } from 'vitest'
import { virtualClock } from '../../kernel'
import { webUsbPort, type WebUsbDevice } from '.'

/*
 * W3C WebUSB: a request that the device stalls ends with the status "stall"; a device that went away throws a
 * DOMException; a device has no configuration until one is selected (clauses 6.1 and 6.2; wording from memory).
 */

/** Time that moves by sleepers alone. */
const clock = () => virtualClock(() => new Promise((done) => setImmediate(done)))
const setup = { type: 'class', recipient: 'interface', request: 3, value: 7, index: 2 } as const

function device(over: Partial<Record<keyof WebUsbDevice, unknown>> = {}) {
  const did: unknown[][] = []
  const say =
    (name: string, answer: unknown = { status: 'ok' }) =>
    async (...args: unknown[]) => {
      did.push([name, ...args])
      return answer
    }
  const stub = {
    opened: false,
    configuration: null,
    open: say('open'),
    close: say('close'),
    reset: say('reset'),
    selectConfiguration: say('selectConfiguration'),
    claimInterface: say('claimInterface'),
    selectAlternateInterface: say('selectAlternateInterface'),
    // A view into the middle of a larger buffer, as browsers give it.
    controlTransferIn: say('controlTransferIn', {
      status: 'ok',
      data: new DataView(Uint8Array.of(9, 9, 1, 2, 9).buffer, 2, 2),
    }),
    controlTransferOut: say('controlTransferOut'),
    transferIn: say('transferIn', { status: 'ok' }),
    transferOut: say('transferOut'),
    ...over,
  }
  return { stub: stub as unknown as WebUsbDevice, did }
}
const portOn = (stub: WebUsbDevice | null) => webUsbPort('jack', clock(), async () => stub)

describe('a device through the WebUSB interface', () => {
  it('is opened and given its configuration, once', async () => {
    const { stub, did } = device()
    await portOn(stub).open()
    expect(did).toEqual([['open'], ['selectConfiguration', 1]])
    const again = device({ opened: true, configuration: {} })
    await portOn(again.stub).open()
    expect(again.did).toEqual([])
  })
  it('hands requests over as they are, and gives the bytes of the answer alone', async () => {
    const { stub, did } = device()
    const port = portOn(stub)
    await port.open()
    await port.claimInterface(2, 1)
    expect([...(await port.controlIn(setup, 6))]).toEqual([1, 2])
    await port.controlOut(setup, Uint8Array.of(5))
    await port.controlOut(setup)
    expect([...(await port.transferIn(1, 64))]).toEqual([])
    await port.transferOut(2, Uint8Array.of(6, 7))
    const { type, ...rest } = setup
    const web = { ...rest, requestType: type }
    expect(did.slice(2)).toEqual([
      ['claimInterface', 2],
      ['selectAlternateInterface', 2, 1],
      ['controlTransferIn', web, 6],
      ['controlTransferOut', web, Uint8Array.of(5)],
      ['controlTransferOut', web, undefined],
      ['transferIn', 1, 64],
      ['transferOut', 2, Uint8Array.of(6, 7)],
    ])
  })
  // Source: W3C WebUSB, USBTransferStatus: "babble" is more data than was asked for. USB 2.0, 8.7.4.
  it('tells a device that sends too much from one that refuses', async () => {
    const bySays = device({
      transferIn: async () => {
        throw new Error('LIBUSB_TRANSFER_OVERFLOW')
      },
    })
    for (const { stub } of [device({ transferIn: async () => ({ status: 'babble' }) }), bySays]) {
      const port = portOn(stub)
      await port.open()
      await expect(port.transferIn(1, 64)).rejects.toMatchObject({
        facts: { kind: 'usb-babble', place: { at: 'endpoint 1' } },
      })
    }
  })
  it('tells a refused request from a device that went away', async () => {
    const stalls = portOn(device({ controlTransferIn: async () => ({ status: 'stall' }) }).stub)
    await stalls.open()
    await expect(stalls.controlIn(setup, 6)).rejects.toMatchObject({
      facts: { kind: 'usb-stall', place: { at: 'request 3' } },
    })
    const throws = (says: string) =>
      device({
        transferOut: async () => {
          throw new Error(says)
        },
      }).stub
    const driver = portOn(throws('LIBUSB_TRANSFER_STALL'))
    await driver.open()
    await expect(driver.transferOut(1, Uint8Array.of(1))).rejects.toMatchObject({
      facts: { kind: 'usb-stall' },
    })
    const pulled = portOn(throws('The device was disconnected.'))
    await pulled.open()
    await expect(pulled.transferOut(1, Uint8Array.of(1))).rejects.toMatchObject({
      facts: { kind: 'port-lost', thing: 'jack' },
    })
  })
  it('is closed before it is opened, and again after its end; nothing goes to the device then', async () => {
    const { stub, did } = device()
    const port = portOn(stub)
    await expect(port.controlOut(setup)).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
    await port.open()
    await port.close()
    const before = did.length
    await expect(port.transferIn(1, 1)).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
    expect(did).toHaveLength(before)
  })
  it('that is not there, or that another program holds, is lost and not open', async () => {
    await expect(portOn(null).open()).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
    const held = device({
      open: async () => {
        throw new Error('Access denied')
      },
    })
    const port = portOn(held.stub)
    await expect(port.open()).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
    await expect(port.controlOut(setup)).rejects.toMatchObject({ facts: { kind: 'port-closed' } })
  })
  it('is found again as the device that comes back, and only within its time', async () => {
    const time = clock()
    const first = device({ opened: true })
    const second = device()
    let here: WebUsbDevice | null = first.stub
    const port = webUsbPort('jack', time, async () => here)
    await port.open()
    // A handle whose device became another one refuses its reset: no fault.
    Object.assign(first.stub, { reset: vi.fn().mockRejectedValue(new Error('Not found')) })
    await port.reset()
    here = null
    time.after(950, () => (here = second.stub))
    await port.reopen(1000)
    await port.transferOut(1, Uint8Array.of(1))
    expect(second.did.map(([name]) => name)).toEqual(['open', 'selectConfiguration', 'transferOut'])
    expect(first.did.some(([name]) => name === 'transferOut')).toBe(false)

    here = null
    const begun = time.now()
    await expect(port.reopen(1000)).rejects.toMatchObject({ facts: { kind: 'port-lost' } })
    expect(time.now() - begun).toBe(1000)
  })
})
