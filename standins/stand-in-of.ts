import { drivenLink, type DrivenLink, type Speech } from '@bench-wake/core/family'
import type { Over } from '@bench-wake/core/link'
import { chipUnit } from './chip-unit'
import { controllerUnit } from './controller-unit'
import { loggerUnit } from './logger-unit'
import { sixLineUnit } from './six-line-unit'
import { scriptedUnit } from './scripted-unit'
import { receiverUnit } from './receiver-unit'
import { rs485Unit } from './rs485-unit'
import type { StandIn } from './stand-in'
import { poweredUnit } from './powered-unit'
import { UnitPower } from './unit-power'
import type { UnitForm } from './unit-memory'

/** The stand-in of each protocol: the unit's half of it. */
const standIns: { readonly [S in Speech]: (form: UnitForm & { link: Over<S> }) => StandIn } = {
  modbus: (form) =>
    rs485Unit({
      ...form,
      // A second unit at the same address is the worst of them: it stands first.
      neighbours: (form.family.isolation?.neighbours ?? []).map(({ id }, index) => ({
        id,
        address: index === 0 ? 1 : 2 + index,
      })),
    }),
  dfu: loggerUnit,
  uds: controllerUnit,
  kwp: controllerUnit,
  script: scriptedUnit,
  debug: receiverUnit,
  'in-system': sixLineUnit,
  'spi-flash': chipUnit,
}

/**
 * A stand-in of a unit on one of its family's driven links.
 * @param linkId which of them; the first where nothing is said.
 * @throws TypeError when the family has no driven link of that name.
 */
export function standInOf(form: UnitForm, linkId?: string): StandIn {
  const link: DrivenLink | undefined = drivenLink(form.family, linkId)
  if (!link) throw new TypeError(`${form.family.id} has no driven link ${linkId ?? ''}`)
  const make = standIns[link.drive.speaks] as (form: UnitForm & { link: DrivenLink }) => StandIn
  const power = new UnitPower(form.family, form.battery, form.faults)
  return poweredUnit(make({ ...form, power, link }), power)
}
