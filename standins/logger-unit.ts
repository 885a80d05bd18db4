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
  const component = family.components[0]!
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
      const {
        address,
        sectorBytes = 1024,
        eraseMsPerSector = 0,
        pageBytes = 256,
        programMsPerPage = 0,
      } = memory.region(component.id)
      const flash = memory.flash(component.id)
      const strings = (inUpdate: boolean) => {
        const last = Math.max(3, ...link.drive.page.map(({ string }) => string))
        return Array.from({ length: last }, (_, index) => {
          const item = link.drive.page.find(({ string }) => string === index + 1)
          if (!item) return ''
          return inUpdate && !knownInUpdate.includes(item.field) ? '' : (memory.line(item.field) ?? '')
        })
      }
      const sectorsFrom = (at: number, length: number) =>
        Math.ceil((at + length) / sectorBytes) - Math.ceil(at / sectorBytes)
      const device = {
        form: shape,
        blockMs: (at: number, length: number) =>
          sectorsFrom(at, length) * eraseMsPerSector + Math.ceil(length / pageBytes) * programMsPerPage,
        manifestMs: 40,
        async program(at: number, data: Uint8Array) {
          if (!memory.covers(component.id, address + at, data.length)) return 8
          // The times are in the poll time already: the work itself is done at once.
          const first = Math.ceil(at / sectorBytes)
          for (let sector = first; sector < first + sectorsFrom(at, data.length); sector++) {
            flash.bytes.fill(0xff, sector * sectorBytes, (sector + 1) * sectorBytes)
          }
          for (let index = 0; index < data.length; index++) flash.bytes[at + index]! &= data[index]!
          form.power?.programs(data.length)
          return 0
        },
        finish: (length: number) => (length > 0 ? 0 : 9),
        readBack: (at: number, length: number) => flash.bytes.slice(at, at + length),
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
        now = {
          vendorId: link.usb?.vendorId ?? 0xf0a1,
          productId: (link.usb?.productId ?? 9) - (inUpdate ? 0 : 1),
          strings: strings(inUpdate),
          interfaces: concatBytes([
            Uint8Array.of(9, 4, 0, 0, 0, 0xfe, 1, inUpdate ? 2 : 1, 0),
            writeFunction(shape),
          ]),
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
