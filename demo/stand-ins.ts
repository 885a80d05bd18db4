import { applicationRegions, type Family } from '@bench-wake/core/family'
import { demoFamily } from './families'
import { firmwareOf } from './image'
import { demoFieldsOf } from './shelf'
import type { DemoUnit } from './units'

/** What a stand-in of a demo unit has in it: firmware as old as the unit's pages say, and its own lines. */
export interface DemoStandIn {
  hardware: string
  flash: Uint8Array
  lines: Record<string, string>
}

export function demoStandIn({ familyId, serial, pages, standIn }: DemoUnit): DemoStandIn {
  const family = demoFamily(familyId)
  const said: Record<string, string> = Object.assign({}, ...pages.map(({ lines }) => lines))
  const hardware = standIn?.hardware ?? said['hardware'] ?? '1'
  return {
    hardware,
    flash: memoryOf(family, (component) => {
      const version = said[`version.${component}`] ?? standIn?.version
      if (version === undefined) return null
      const sequence = said[`sequence.${component}`]
      return {
        hardwareMajor: parseInt(hardware),
        version,
        serial,
        buildTime: Date.parse(standIn?.built ?? '2025-02-11T00:00Z') / 1000,
        ...(sequence ? { sequence: Number(sequence) } : {}),
      }
    }),
    lines: Object.fromEntries(
      Object.entries(said).filter(([field]) => !['deviceIdentifier', 'hardware', 'serial'].includes(field)),
    ),
  }
}

/** All application regions one after the other, each with its component's firmware; erased where it has none. */
export function memoryOf(
  family: Family,
  fieldsOf: (component: string) => Parameters<typeof firmwareOf>[1]['fields'] | null,
): Uint8Array {
  const parts = family.components.flatMap(({ id, ...component }) =>
    applicationRegions({ id, ...component }).map((region, index) => {
      const bytes = new Uint8Array(region.length).fill(0xff)
      const fields = index === 0 ? fieldsOf(id) : null
      if (fields) bytes.set(firmwareOf(family, demoFieldsOf(family.id, id, fields)))
      return bytes
    }),
  )
  const whole = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const part of parts) {
    whole.set(part, at)
    at += part.length
  }
  return whole
}
