import type { DriveOf, FamilyLink } from '@bench-wake/core/family'
import { bytesShown } from '@bench-wake/core/link'
import { dapAdapterDevice } from './dap-adapter'
import { stepsController } from './flash-by-steps'
import { registerController } from './flash-controller'
import { microcontroller } from './microcontroller'
import { whilePowered, wireTarget } from './protocols/wire-target'
import type { StandIn } from './stand-in'
import { unitMemory, type UnitForm } from './unit-memory'
import { usbDevice } from './usb-device'

/** Identity of a serial wire debug port of a small processor (from memory). */
const debugPortIdentity = 0x0bc11477

/*
 * A unit without a loader: its processor's debug port on pads, joined to a debug adapter at the USB plug.
 */
export function receiverUnit(
  form: UnitForm & { link: FamilyLink & { drive: DriveOf<'debug'> }; protected?: boolean },
): StandIn {
  const { family, state, link } = form
  const { drive } = link
  const component = family.components[0]!
  const protection = { on: form.protected ?? false }

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'usb',
    hasMeter: false,
    connect(clock) {
      const memory = unitMemory(form, clock, form.power)
      const {
        address,
        length,
        eraseMsPerSector = 20,
        programMsPerPage = 20,
        pageBytes = 1024,
      } = memory.region(component.id)
      const words = new Map<number, number>()
      // What stands outside the flash: the processor's marking, settings of the unit.
      for (const item of drive.page) {
        if (item.address >= address && item.address < address + length) continue
        const bytes = bytesShown(memory.line(item.field) ?? '', item.as, Math.ceil(item.length / 4) * 4)
        const view = new DataView(bytes.buffer)
        for (let at = 0; at < bytes.length; at += 4) words.set(item.address + at, view.getUint32(at, true))
      }
      const target = wireTarget(
        debugPortIdentity,
        microcontroller({
          clock,
          controller: (part) =>
            drive.flashSteps
              ? stepsController(drive.flashSteps, part)
              : registerController(drive.flash!, part),
          base: address,
          bytes: memory.flash(component.id).bytes,
          eraseMs: eraseMsPerSector,
          programMs: (programMsPerPage * (drive.flashSteps ?? drive.flash!).width) / pageBytes,
          words,
          protection,
          onReset() {},
          ...(form.power ? { onProgram: (count) => form.power!.programs(count) } : {}),
        }),
        {
          ...(drive.accessPort === undefined ? {} : { accessPort: drive.accessPort }),
          ...(drive.underReset ? { shutsPort: true } : {}),
        },
      )
      const adapter = dapAdapterDevice({
        clock,
        ends: { wire: whilePowered(target, () => form.power?.on !== false) },
        version: 2,
        serial: form.id,
      })
      return {
        channel: { kind: 'usb', port: usbDevice({ name: form.name, clock, now: () => adapter }) },
      }
    },
    powerCycle() {},
    enter() {},
    state: () => state,
  }
}
