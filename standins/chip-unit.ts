import type { DriveOf, FamilyLink } from '@bench-wake/core/family'
import { eraseTypesOf, usualEraseMs } from '@bench-wake/core/link'
import { dapAdapterDevice } from './dap-adapter'
import { flashChip, flashTable } from './protocols/flash-chip'
import type { ClipSeat, StandIn } from './stand-in'
import { unitMemory, type UnitForm } from './unit-memory'
import { usbDevice } from './usb-device'

/** A made-up maker's byte with its odd parity, and a device's two. */
const madeUpIdentity = [0x5d, 0x40, 0x14] as const

/** A unit's memory chip with the adapter's clip on it: nothing of the unit itself runs. */
export function chipUnit(form: UnitForm & { link: FamilyLink & { drive: DriveOf<'spi-flash'> } }): StandIn {
  const { family, state, link } = form
  const { drive } = link
  const component = family.components[0]!
  const clip: { seat: ClipSeat } = { seat: 'good' }

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'usb',
    hasMeter: false,
    connect(clock) {
      const memory = unitMemory(form, clock, form.power)
      const { address, pageBytes = 256, programMsPerPage = 0.7 } = memory.region(component.id)
      const erases = eraseTypesOf(drive, component).map((type) => ({ ...type, ms: usualEraseMs(type) }))
      const own = memory.flash(component.id).bytes
      // A chip's size is a power of two; the region lies somewhere in it.
      const from = address - (drive.base ?? 0)
      const bytes = new Uint8Array(2 ** Math.ceil(Math.log2(from + own.length))).fill(0xff)
      bytes.set(own, from)
      let turns = 0
      const lines = flashChip({
        clock,
        bytes,
        changed: () => own.set(bytes.subarray(from, from + own.length)),
        identity: identityOf(drive),
        table: flashTable({ bytes: bytes.length, pageBytes, programMs: programMsPerPage, erases }),
        pageBytes,
        programMs: programMsPerPage,
        erases,
        wire(bit, direction) {
          if (clip.seat === 'good') return bit
          if (clip.seat === 'off') return direction === 'out' ? true : bit
          // A leg that gives way: now and then it reads high.
          return ++turns % 37 === 0 ? true : bit
        },
      })
      const adapter = dapAdapterDevice({ clock, ends: { lines }, version: 2, serial: form.id })
      return { channel: { kind: 'usb', port: usbDevice({ name: form.name, clock, now: () => adapter }) } }
    },
    clip,
    powerCycle() {},
    enter() {},
    state: () => state,
  }
}

/** The chip that the profile names first, or a made-up one. */
function identityOf({ identities }: DriveOf<'spi-flash'>): readonly [number, number, number] {
  const named = identities?.[0]
  if (named === undefined) return madeUpIdentity
  return [0, 2, 4].map((at) => parseInt(named.slice(at, at + 2), 16)) as [number, number, number]
}
