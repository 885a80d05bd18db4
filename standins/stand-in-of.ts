import { drivenLink, type DrivenLink, type Speech } from '@bench-wake/core/family'
import type { Over } from '@bench-wake/core/link'
import { chipUnit } from './chip-unit'
import { controllerUnit } from './controller-unit'
import { fogSignal, type FogSignalForm } from './fog-signal'
import { loggerUnit } from './logger-unit'
import { sixLineUnit } from './six-line-unit'
import { scriptedUnit } from './scripted-unit'
import { receiverUnit } from './receiver-unit'
import { rs485Unit } from './rs485-unit'
import type { StandIn } from './stand-in'
import type { UnitForm } from './unit-memory'

/** The family whose stand-in is written out on its own, by its profile. */
const fogSignalId = 'fog-signal'

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
 * @param faults only the fog-signal controller's stand-in knows these.
 * @throws TypeError when the family has no driven link of that name.
 */
export function standInOf(form: UnitForm, linkId?: string, faults?: FogSignalForm['faults']): StandIn {
  const link: DrivenLink | undefined = drivenLink(form.family, linkId)
  if (!link) throw new TypeError(`${form.family.id} has no driven link ${linkId ?? ''}`)
  if (form.family.id === fogSignalId) return fogSignal({ ...form, ...(faults ? { faults } : {}) })
  const make = standIns[link.drive.speaks] as (form: UnitForm & { link: DrivenLink }) => StandIn
  return make({ ...form, link })
}
