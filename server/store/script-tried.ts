import { canonicalJson } from '@bench-wake/core/kernel'
import type { DrivenLink, Family, FamilyDocument } from '@bench-wake/core/family'
import type { ScriptTried } from '@bench-wake/core/ready'
import type { Database } from '../db/open'
import { headsOfFamily } from './run-summaries'
import { getFamilyDocument, whereMissing } from './families'
import { runsAt } from './runs'

/** Runs of a family that are looked through for one that was proved. */
const newestRuns = 40

/**
 * Where the script of a link was carried out to its proof at this bench, by the newest such run; units and practice of the
 * family alike are asked, and what a stand-in proved counts as that.
 */
export async function triedOf(db: Database, family: Family, link: DrivenLink): Promise<ScriptTried> {
  if (link.drive.speaks !== 'script') return { on: 'nothing' }
  const newest = await headsOfFamily(db, family.id, newestRuns)
  const proved = (await runsAt(db, newest)).filter(
    ({ state: { outcome, facts } }) =>
      outcome === 'proved' && facts.task === undefined && facts.link?.id === link.id,
  )
  const onUnit = proved.find(({ state }) => !state.facts.port.standIn)
  if (!onUnit) return { on: proved.length > 0 ? 'stand-in' : 'nothing' }
  const { facts, startedAt } = onUnit.state
  const then = await getFamilyDocument(db, family.id, facts.family.revision).catch(whereMissing)
  const now = await getFamilyDocument(db, family.id).catch(whereMissing)
  return {
    on: 'unit',
    unit: facts.unit.name,
    serial: facts.unit.serial,
    day: new Date(startedAt).toISOString().slice(0, 10),
    sameSteps:
      stepsIn(then ?? undefined, link.id) !== null &&
      stepsIn(then ?? undefined, link.id) === stepsIn(now ?? undefined, link.id),
  }
}

/** The script of a link as a document has it, whatever the order of its members. */
function stepsIn(document: FamilyDocument | undefined, linkId: string): string | null {
  const link = document?.links.find(({ id }) => id === linkId)
  return link?.drive ? canonicalJson(link.drive as never) : null
}
