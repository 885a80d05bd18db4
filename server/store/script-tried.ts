import type { Family, FamilyDocument } from '@bench-wake/core/family'
import { canonicalJson, dayAt, sha256Hex } from '@bench-wake/core/kernel'
import {
  scripted,
  trialsOfRuns,
  type CarriedRun,
  type KeptTrial,
  type ScriptedLink,
} from '@bench-wake/core/ready'
import type { RunState } from '@bench-wake/core/run'
import type { Database } from '../db/open'
import { getFamilyDocument, readKept, whereMissing } from './families'
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
  const profiles = new Map<number, Profile | null>()
  for (const { state } of proved) {
    const { revision } = state.facts.family
    if (profiles.has(revision)) continue
    const document = await getFamilyDocument(db, family.id, revision).catch(whereMissing)
    profiles.set(revision, document ? profileOf(document) : null)
  }
  return trialsOfRuns(
    proved.flatMap(({ state }) => {
      const profile = profiles.get(state.facts.family.revision)
      return profile ? [carriedRun(state, profile)] : []
    }),
  )
}

/** What runs by a revision of a profile share: its digest over the canonical form (RFC 8785), and its scripted links. */
interface Profile {
  digest: string
  links: Map<string, ScriptedLink>
}
/** By the family as it was read, which is kept: a revision never changes. */
const known = new WeakMap<Family, Profile>()
function profileOf(document: FamilyDocument): Profile {
  const family = readKept(document)
  const before = known.get(family)
  if (before) return before
  const links = family.links.flatMap((each) => scripted(each) ?? [])
  const profile = {
    digest: sha256Hex(canonicalJson(document)),
    links: new Map(links.map((link) => [link.id, link])),
  }
  known.set(family, profile)
  return profile
}

function carriedRun(
  { facts, steps, questions, startedAt }: RunState,
  { digest, links }: Profile,
): CarriedRun {
  return {
    standIn: facts.port.standIn,
    of: {
      unit: facts.unit.name,
      serial: facts.unit.serial,
      day: dayAt(startedAt),
      by: facts.releases[0]?.name ?? null,
      revision: facts.family.revision,
      profile: digest,
      linkId: facts.link!.id,
    },
    link: links.get(facts.link!.id) ?? null,
    did: steps.flatMap(({ kind, state }) => (state === 'done' ? [kind] : [])),
    enteredByHand: questions.some(({ step }) => steps[step]?.kind === 'enter'),
  }
}
