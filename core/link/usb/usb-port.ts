import { Problem } from '../../kernel'

/** A control transfer's head (USB 2.0, clause 9.3). */
export interface ControlSetup {
  type: 'standard' | 'class' | 'vendor'
  recipient: 'device' | 'interface' | 'endpoint'
  request: number
  value: number
  index: number
}

/**
 * A USB device: the part of the WebUSB device interface that is used. Real devices and stand-ins implement it alike.
 *
 * Guarantees:
 * - a stalled request fails with Problem `usb-stall`; a device that went away, with `port-lost`.
 * - after `reset`, or when a device detaches by itself, `reopen` waits for the one that comes back at the same place:
 *   the same device as another configuration of itself, with other identifiers perhaps.
 * - one transfer at a time for each endpoint.
 */
export interface UsbPort {
  readonly name: string
  open(): Promise<void>
  close(): Promise<void>
  claimInterface(number: number, alternate: number): Promise<void>
  controlIn(setup: ControlSetup, length: number): Promise<Uint8Array>
  controlOut(setup: ControlSetup, data?: Uint8Array): Promise<void>
  transferIn(endpoint: number, length: number): Promise<Uint8Array>
  transferOut(endpoint: number, data: Uint8Array): Promise<void>
  reset(): Promise<void>
  /** @throws Problem `port-lost` when nothing came back in time. */
  reopen(timeoutMs: number): Promise<void>
}

/** The device sent more than it was asked for (USB 2.0, 8.7.4: babble): what came is none of what was asked. */
export function usbBabble(thing: string, request: string): Problem {
  return new Problem({
    kind: 'usb-babble',
    thing,
    place: { at: request },
    says: 'the device sent more than it was asked for',
    remedy:
      'Its lengths do not fit the profile, or its update mode is of another version. Unplug it, count to five, plug it in again.',
  })
}

/** A request that the device refused by a stall. */
export function usbStall(thing: string, request: string): Problem {
  return new Problem({
    kind: 'usb-stall',
    thing,
    place: { at: request },
    says: 'the device refuses the request',
    remedy: 'It is in another state than this needs: unplug it, count to five, plug it in again.',
  })
}
