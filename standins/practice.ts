import { applicationRegions, type Component, type Family, type VersionScheme } from '@bench-wake/core/family'
import type { UnitFacts } from '@bench-wake/core/unit'
import type { MemoryMap } from '@bench-wake/core/image'
import { firmwareOf, type MadeUpFirmware } from './firmware'
import { memoryBytes, unitMemoryOf } from './unit-memory'

/** What a stand-in is when it is made for practice: like the unit that it stands for, by what is known of that one. */
export interface PracticeForm {
  hardware: string
  flash: Uint8Array
  lines: Record<string, string>
}

/** Version of made-up firmware where nobody knows the unit's own; older than any that is written onto it. */
const unknownVersion = ({ version }: Component): string => (version.scheme === 'date' ? '2020-01-01' : '0.1')
/** Made-up firmware is as long as a region holds, and no longer than this: practice need not take an hour. */
const maxBytes = 0x1_0000
/** The build time of made-up firmware, s since 1970 UTC: 2020-01-01. */
const madeAt = 1_577_836_800

/**
 * Made-up memory for a unit: in each component firmware that says the version which the unit has, its serial and hardware.
 * @param lines what the unit's page says beside, by field.
 */
export function practiceForm(
  family: Family,
  serial: string,
  facts: UnitFacts,
  lines: Readonly<Record<string, string>> = {},
): PracticeForm {
  const hardware = facts.hardware ?? String(facts.hardwareMajor ?? family.hardware.revisions[0]?.major ?? 1)
  const flash = new Uint8Array(memoryBytes(family)).fill(0xff)
  for (const component of family.components) {
    const region = applicationRegions(component)[0]
    if (!region) continue
    unitMemoryOf(family, flash, component.id).set(firmwareFor(family, component, serial, facts))
  }
  return {
    hardware,
    flash,
    lines: Object.fromEntries(
      Object.entries(lines).filter(([field]) => !['deviceIdentifier', 'hardware', 'serial'].includes(field)),
    ),
  }
}

/**
 * A made-up image for a unit, of a version after the one it has.
 * @param fields what else it says of itself: a variant.
 */
export function practiceImage(
  family: Family,
  component: Component,
  serial: string,
  facts: UnitFacts,
  fields: MadeUpFirmware['fields'] = {},
): MemoryMap {
  const own = facts.versions[component.id] ?? unknownVersion(component)
  const version = versionAfter(component.version.scheme, own)
  const bytes = firmwareFor(family, component, serial, facts, { version, ...fields })
  return [{ address: applicationRegions(component)[0]!.address, bytes }]
}

/** A version that comes after another one under a scheme: of a hardware line the last number counts up, else the first. */
export function versionAfter(scheme: VersionScheme, version: string): string {
  const number = scheme === 'line' ? /\d+(?=\D*$)/ : /\d+/
  return number.test(version)
    ? version.replace(number, (digits) => String(Number(digits) + 1).padStart(digits.length, '0'))
    : `${version}2`
}

function firmwareFor(
  family: Family,
  component: Component,
  serial: string,
  facts: UnitFacts,
  fields: MadeUpFirmware['fields'] = {},
): Uint8Array {
  const region = applicationRegions(component)[0]!
  return firmwareOf(family, {
    component: component.id,
    length: Math.min(region.length, Math.max(maxBytes, reachOf(component, region.address))),
    fields: { ...fieldsOf(family, component, serial, facts), ...fields },
  })
}

/** Bytes from the region's start that the identity block needs, with room for a trailer after it. */
const reachOf = ({ identity }: Component, start: number): number =>
  (identity?.address ?? start + 0x200) - start + 0x200

/** "watchdog+inverted" as the number that the identity block holds; undefined where nobody said. */
function optionBits({ options = [] }: Component, text: string | undefined): number | undefined {
  if (text === undefined) return undefined
  const names = text.split('+')
  return options.filter(({ id }) => names.includes(id)).reduce((sum, { bit }) => sum + 2 ** bit, 0)
}

function fieldsOf(
  family: Family,
  component: Component,
  serial: string,
  facts: UnitFacts,
): MadeUpFirmware['fields'] {
  const { hardwareMajor, model, layout } = facts
  const sequence = facts.sequences?.[component.id]
  const options = optionBits(component, facts.options?.[component.id])
  return {
    deviceIdentifier: family.hardware.deviceIdentifier,
    version: facts.versions[component.id] ?? unknownVersion(component),
    hardwareMajor: hardwareMajor ?? family.hardware.revisions[0]?.major ?? 1,
    hardwareMinor: 0,
    buildTime: madeAt,
    release: 'production',
    serial,
    ...(model === undefined ? {} : { model }),
    ...(layout === undefined ? {} : { layout }),
    ...(sequence === undefined ? {} : { sequence }),
    ...(options === undefined ? {} : { options }),
  }
}
