import type { DriveOf, FamilyLink } from '@bench-wake/core/family'
import { concatBytes } from '@bench-wake/core/kernel'
import { writeFunction, type DfuFunction } from '@bench-wake/core/link'
import { dfuMachine, type DfuMachine } from './protocols/update-device'
import type { StandIn } from './stand-in'
import { unitMemory, type UnitForm } from './unit-memory'
import { usbDevice, type UsbConfiguration } from './usb-device'

/*
 * A unit with a USB jack: its firmware tells of itself in strings and can detach; its update mode takes a file (DFU 1.1).
 * Erasing is its own affair: a sector is erased when the first block of it comes.
 */

const shape: DfuFunction = {
  canDownload: true,
  canUpload: true,
  manifestationTolerant: true,
  willDetach: false,
  detachMs: 1000,
  transferBytes: 1024,
  version: 0x0110,
}
/** Strings that the update mode has as well: it knows the unit, not the firmware. */
const knownInUpdate = ['deviceIdentifier', 'hardware', 'serial']

export function loggerUnit(form: UnitForm & { link: FamilyLink & { drive: DriveOf<'dfu'> } }): StandIn {
  const { family, state, link } = form
  /** Its alternate settings: a memory each. */
  const settings: NonNullable<typeof link.drive.alternates> = link.drive.alternates ?? [
    { component: family.components[0]!.id },
  ]
  let plugAgain: (inBootloader: boolean) => void = (inBootloader) => {
    state.inBootloader = inBootloader
  }

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'usb',
    hasMeter: false,
    connect(clock) {
      const memory = unitMemory(form, clock, form.power)
      /** The memory of the alternate setting that was chosen. */
      let chosen = family.components[0]!
      const region = () => memory.region(chosen.id)
      const strings = (inUpdate: boolean) => {
        const last = Math.max(3, ...link.drive.page.map(({ string = 0 }) => string))
        const own = Array.from({ length: last }, (_, index) => {
          const item = link.drive.page.find(({ string }) => string === index + 1)
          if (!item) return ''
          return inUpdate && !knownInUpdate.includes(item.field) ? '' : (memory.line(item.field) ?? '')
        })
        return [...own, ...settings.map(({ alternate, named }) => named ?? saidBy(alternate) ?? '')]
      }
      const saidBy = (setting?: number) => {
        const item = link.drive.page.find(({ alternate }) => alternate !== undefined && alternate === setting)
        return item && memory.line(item.field)
      }
      const sectorsFrom = (at: number, length: number) => {
        const { sectorBytes = 1024 } = region()
        return Math.ceil((at + length) / sectorBytes) - Math.ceil(at / sectorBytes)
      }
      const device = {
        form: shape,
        blockMs(at: number, length: number) {
          const { eraseMsPerSector = 0, pageBytes = 256, programMsPerPage = 0 } = region()
          return sectorsFrom(at, length) * eraseMsPerSector + Math.ceil(length / pageBytes) * programMsPerPage
        },
        manifestMs: 40,
        async program(at: number, data: Uint8Array) {
          const { address, sectorBytes = 1024 } = region()
          if (!memory.covers(chosen.id, address + at, data.length)) return 8
          const { bytes } = memory.flash(chosen.id)
          // The times are in the poll time already: the work itself is done at once.
          const first = Math.ceil(at / sectorBytes)
          for (let sector = first; sector < first + sectorsFrom(at, data.length); sector++) {
            bytes.fill(0xff, sector * sectorBytes, (sector + 1) * sectorBytes)
          }
          for (let index = 0; index < data.length; index++) bytes[at + index]! &= data[index]!
          form.power?.programs(data.length)
          return 0
        },
        finish: (length: number) => (length > 0 ? 0 : 9),
        readBack: (at: number, length: number) => memory.flash(chosen.id).bytes.slice(at, at + length),
        intact: () => memory.intact(),
      }
      let machine: DfuMachine
      let now: UsbConfiguration | null = null
      const plug = (inBootloader: boolean) => {
        const intact = memory.intact()
        state.inBootloader = inBootloader || !intact
        machine = dfuMachine(
          form.name,
          clock,
          device,
          !state.inBootloader ? 'appIDLE' : intact || inBootloader ? 'dfuIDLE' : 'dfuERROR',
        )
        const inUpdate = state.inBootloader
        const own = strings(inUpdate).length - settings.length + 1
        now = {
          vendorId: link.usb?.vendorId ?? 0xf0a1,
          productId: (link.usb?.productId ?? 9) - (inUpdate ? 0 : 1),
          strings: strings(inUpdate),
          // One setting while its firmware runs; in update mode one for each memory, and what they can do behind the last.
          interfaces: concatBytes([
            ...(inUpdate ? settings : settings.slice(0, 1)).map(({ alternate }, index) =>
              Uint8Array.of(9, 4, 0, alternate ?? index, 0, 0xfe, 1, inUpdate ? 2 : 1, own + index),
            ),
            writeFunction(shape),
          ]),
          claim(_number, alternate) {
            const setting = settings.find((each, index) => (each.alternate ?? index) === alternate)
            chosen = family.components.find(({ id }) => id === setting?.component) ?? chosen
          },
          control: (setup, direction, length, data) => machine.control(setup, direction, length, data),
        }
      }
      plug(state.inBootloader)
      plugAgain = plug
      const port = usbDevice({
        name: form.name,
        clock,
        now: () => (form.power?.on === false ? null : now),
        onReset() {
          machine.reset()
          plug(machine.state === 'dfuIDLE' || machine.state === 'dfuERROR')
        },
      })
      return { channel: { kind: 'usb', port } }
    },
    powerCycle: () => plugAgain(false),
    enter: () => plugAgain(true),
    state: () => state,
  }
}
