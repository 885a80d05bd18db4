import { componentsOn, type Family } from '../family'
import { compareVersions, type UnitFacts } from '../unit'
import { judgeBelonging } from './judge-fit'
import type { ShelfEntry } from './hop'
import type { UnitAnswers } from './question'

/**
 * The newest production release on the shelf that belongs on the unit, by component id (PRACTICE B4: the default).
 * Where two cannot be ordered the one that was built later is taken; a component without any is left out.
 */
export function newestFor(
  family: Family,
  unit: UnitFacts,
  shelf: readonly ShelfEntry[],
  answers?: UnitAnswers,
): Record<string, ShelfEntry> {
  const newest: Record<string, ShelfEntry> = {}
  for (const component of componentsOn(family, unit.model)) {
    for (const image of shelf) {
      const { identity } = image
      if (identity?.familyId !== family.id || identity.componentId !== component.id) continue
      if (identity.version === undefined || (identity.release ?? 'production') !== 'production') continue
      const question = { family, component, unit, image, ...(answers ? { answers } : {}) }
      if (judgeBelonging(question).verdict === 'stop') continue
      const known = newest[component.id]
      const order =
        known && compareVersions(component.version.scheme, identity.version, known.identity!.version!)
      const later = (identity.buildTime ?? 0) > (known?.identity?.buildTime ?? 0)
      if (!known || order === 'newer' || (order === 'not-comparable' && later)) newest[component.id] = image
    }
  }
  return newest
}

/** Versions of `newestFor`, as the question whether anything is to be done takes them. */
export function versionsOf(newest: Readonly<Record<string, ShelfEntry>>): Record<string, string> {
  return Object.fromEntries(Object.entries(newest).map(([id, { identity }]) => [id, identity!.version!]))
}
