import { applicationRegions, type Component, type Family, type Region } from '@bench-wake/core/family'
import { byRelease, identifyImage, type ImageIdentity } from '@bench-wake/core/image'
import { sha256Hex, type Clock } from '@bench-wake/core/kernel'
import { norFlash, type NorFlash } from './nor-flash'
import type { StandInState } from './stand-in'
import type { SupplyForm } from './supply'
import { UnitPower, type StandInFaults } from './unit-power'

/** Bytes of all application regions of a family, one after the other: what a stand-in's memory is. */
export const memoryBytes = (family: Family): number =>
  family.components
    .flatMap((component) => applicationRegions(component))
    .reduce((sum, { length }) => sum + length, 0)

/** A stand-in's memory by component, and what the firmware in it says of itself. */
export interface UnitMemory {
  /** Flash of a component's first application region, which holds its firmware. */
  flash(componentId: string): NorFlash
  region(componentId: string): Region
  covers(componentId: string, address: number, length: number): boolean
  /** What the firmware says of itself; null where there is none that holds. */
  firmware(componentId: string): ImageIdentity | null
  /** Every component has firmware that holds. */
  intact(): boolean
  /** A line of the unit's page, from what is really in it; null where it cannot say. */
  line(field: string): string | null
}

/** The bytes of a component's first application region within a stand-in's whole memory. */
export function unitMemoryOf(family: Family, flash: Uint8Array, componentId: string): Uint8Array {
  let at = 0
  for (const component of family.components) {
    for (const [index, { length }] of applicationRegions(component).entries()) {
      if (component.id === componentId && index === 0) return flash.subarray(at, at + length)
      at += length
    }
  }
  throw new TypeError(`no component ${componentId}`)
}

/** A unit's memory on its supply, in one clock. */
export function unitMemory(
  form: { family: Family; hardware: string; serial: string; state: StandInState },
  clock: Clock,
  power: UnitPower = new UnitPower(form.family),
): UnitMemory {
  const { family, state } = form
  const parts = new Map<string, { region: Region; bytes: Uint8Array; flash: NorFlash }>()
  let at = 0
  for (const component of family.components) {
    for (const [index, region] of applicationRegions(component).entries()) {
      const bytes = state.flash.subarray(at, at + region.length)
      if (index === 0)
        parts.set(component.id, { region, bytes, flash: norFlash(region, clock, bytes, power) })
      at += region.length
    }
  }
  const part = (id: string) => parts.get(id)!

  const firmware = (id: string): ImageIdentity | null => {
    const { region, bytes } = part(id)
    if (bytes.length < region.length) return null
    const own: Component = family.components.find((each) => each.id === id)!
    // Firmware without a label: that something stands there is all that can be seen.
    if (!own.identity && !own.versionText) {
      const { erasedByte } = own.memory
      const end = bytes.findLastIndex((byte) => byte !== erasedByte) + 1
      if (end === 0 || bytes[0] === erasedByte) return null
      const listed = family.releases && byRelease([sha256Hex(bytes.subarray(0, end))], [family])
      return listed?.componentId === id ? listed : { familyId: family.id, componentId: id }
    }
    const identity = identifyImage([{ address: region.address, bytes }], [{ ...family, components: [own] }])
    const holds =
      identity?.componentId === id &&
      identity.intact?.ok !== false &&
      // An image without a block carries none: then what tells whose it is, tells that too.
      (identity.deviceIdentifier ?? family.hardware.deviceIdentifier) === family.hardware.deviceIdentifier
    return holds ? identity : null
  }

  return {
    flash: (id) => part(id).flash,
    region: (id) => part(id).region,
    covers(id, address, length) {
      const found = parts.get(id)
      return (
        !!found &&
        length > 0 &&
        address >= found.region.address &&
        address + length <= found.region.address + found.bytes.length
      )
    },
    firmware,
    intact: () => family.components.every(({ id, onlyOn }) => onlyOn !== undefined || firmware(id) !== null),
    line(field) {
      const [what, id] = field.split('.') as [string, string | undefined]
      if (id !== undefined && parts.has(id)) {
        const identity = firmware(id)
        if (!identity) return null
        if (what === 'version') return identity.version ?? null
        if (what === 'options') return identity.options ?? null
        if (what === 'sequence') return identity.sequence === undefined ? null : String(identity.sequence)
        if (what === 'buildTime' && identity.buildTime !== undefined) {
          return `${new Date(identity.buildTime).toISOString().slice(0, 16)}Z`
        }
        return null
      }
      switch (field) {
        case 'deviceIdentifier':
          return family.hardware.deviceIdentifier
        case 'hardware':
          return form.hardware
        case 'serial':
          return form.serial
        case 'supply':
          return `${power.volts().toFixed(2)} V`
        default:
          return state.lines?.[field] ?? null
      }
    },
  }
}

/** What any stand-in of a family is made of. */
export interface UnitForm {
  id: string
  name: string
  family: Family
  hardware: string
  serial: string
  state: StandInState
  /** A battery of its own: a meter and a lamp then stand at it. */
  battery?: SupplyForm
  faults?: StandInFaults
  /** What feeds it, where it is already there. */
  power?: UnitPower
}
