import {
  drivenLink,
  type DriveOf,
  type DrivenLink,
  type FamilyLink,
  type Speech,
} from '@bench-wake/core/family'
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

type Over<S extends Speech> = FamilyLink & { drive: DriveOf<S> }

/** The family whose stand-in is written out on its own, by its profile. */
const fogSignalId = 'fog-signal'

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
  switch (link.drive.speaks) {
    case 'modbus':
      return rs485Unit({
        ...form,
        link: link as Over<'modbus'>,
        // A second unit at the same address is the worst of them: it stands first.
        neighbours: (form.family.isolation?.neighbours ?? []).map(({ id }, index) => ({
          id,
          address: index === 0 ? 1 : 2 + index,
        })),
      })
    case 'dfu':
      return loggerUnit({ ...form, link: link as Over<'dfu'> })
    case 'uds':
    case 'kwp':
      return controllerUnit({ ...form, link: link as Over<'uds'> | Over<'kwp'> })
    case 'script':
      return scriptedUnit({ ...form, link: link as Over<'script'> })
    case 'debug':
      return receiverUnit({ ...form, link: link as Over<'debug'> })
    case 'in-system':
      return sixLineUnit({ ...form, link: link as Over<'in-system'> })
    case 'spi-flash':
      return chipUnit({ ...form, link: link as Over<'spi-flash'> })
  }
}
