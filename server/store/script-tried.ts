import { readFamily, type Family } from '@bench-wake/core/family'
import { canonicalJson, sha256Hex } from '@bench-wake/core/kernel'
import { scripted, trialsOfRuns, type CarriedRun, type KeptTrial } from '@bench-wake/core/ready'
import type { RunState } from '@bench-wake/core/run'
import type { Database } from '../db/open'
import { getFamilyDocument, whereMissing } from './families'
import { headsOfFamily } from './run-summaries'
import { runsAt } from './runs'

/** Runs of a family that are looked through for what they proved. */
const newestRuns = 40

/**
 * What the operations of a family's scripts did in runs that came to their proof at this bench, newest first; units and
 * practice of the family alike, each marked as what it was.
 */
export async function triedOf(db: Database, family: Pick<Family, 'id'>): Promise<KeptTrial[]> {
  const newest = await headsOfFamily(db, family.id, newestRuns)
  const proved = (await runsAt(db, newest)).filter(
    ({ state: { outcome, facts } }) => outcome === 'proved' && facts.task === undefined && facts.link,
  )
  const profiles = new Map<number, { digest: string; links: Family['links'] } | null>()
  for (const { state } of proved) {
    const { revision } = state.facts.family
    if (profiles.has(revision)) continue
    const document = (await getFamilyDocument(db, family.id, revision).catch(whereMissing)) ?? null
    profiles.set(
      revision,
      document && { digest: sha256Hex(canonicalJson(document)), links: readFamily(document).links },
    )
  }
  return trialsOfRuns(
    proved.flatMap(({ state }) => {
      const profile = profiles.get(state.facts.family.revision)
      return profile ? [carriedRun(state, profile)] : []
    }),
  )
}

function carriedRun(
  { facts, steps, questions, startedAt }: RunState,
  { digest, links }: { digest: string; links: Family['links'] },
): CarriedRun {
  return {
    standIn: facts.port.standIn,
    unit: facts.unit.name,
    serial: facts.unit.serial,
    day: new Date(startedAt).toISOString().slice(0, 10),
    by: facts.releases[0]?.name ?? null,
    revision: facts.family.revision,
    profile: digest,
    linkId: facts.link!.id,
    link: scripted(links.find(({ id }) => id === facts.link!.id)),
    did: steps.flatMap(({ kind, state }) => (state === 'done' ? [kind] : [])),
    enteredByHand: questions.some(({ step }) => steps[step]?.kind === 'enter'),
  }
}
