import type { DriveOf, FamilyLink } from '@bench-wake/core/family'
import { dapAdapterDevice } from './dap-adapter'
import { inSystemTarget } from './protocols/in-system-target'
import type { StandIn } from './stand-in'
import { unitMemory, type UnitForm } from './unit-memory'
import { usbDevice } from './usb-device'

/** Line of the stand-in's own memory that keeps a fuse byte. */
const fuseLine = (id: string) => `fuse.${id}`

/** All ones, as such a byte comes, but nothing that shuts the port. */
const openValue = (bits: readonly { bit: number; locksOutAt?: 0 | 1 }[]): number =>
  bits.reduce((value, { bit, locksOutAt }) => (locksOutAt === 1 ? value & ~(1 << bit) : value), 0xff)

/** A processor on its six-line port, behind an adapter. */
export function sixLineUnit(
  form: UnitForm & { link: FamilyLink & { drive: DriveOf<'in-system'> } },
): StandIn {
  const { family, state, link } = form
  const { drive } = link
  const component = family.components[0]!

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'usb',
    hasMeter: false,
    connect(clock) {
      const memory = unitMemory(form, clock, form.power)
      const { address, pageBytes = 64 } = memory.region(component.id)
      const own = memory.flash(component.id).bytes
      const bytes = new Uint8Array(address + own.length).fill(0xff)
      bytes.set(own, address)
      const fuses = new Map(
        (drive.fuses ?? []).map(({ id, wanted, bits }) => {
          const kept = state.lines?.[fuseLine(id)] ?? wanted
          return [id, kept === undefined ? openValue(bits) : parseInt(kept, 16)]
        }),
      )
      const lines = inSystemTarget({
        clock,
        drive,
        signature: drive.signatures[0]!,
        memory: bytes,
        pageBytes,
        fuses,
        changed() {
          own.set(bytes.subarray(address))
          for (const [id, value] of fuses) {
            state.lines ??= {}
            state.lines[fuseLine(id)] = `0x${value.toString(16).toUpperCase().padStart(2, '0')}`
          }
        },
      })
      const adapter = dapAdapterDevice({ clock, ends: { lines }, version: 2, serial: form.id })
      return { channel: { kind: 'usb', port: usbDevice({ name: form.name, clock, now: () => adapter }) } }
    },
    powerCycle() {},
    enter() {},
    state: () => state,
  }
}
