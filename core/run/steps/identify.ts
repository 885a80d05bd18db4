import { judgeFit } from '../../fit'
import { rangesOf } from '../../image'
import { inSentence, Problem, verdictAfter, type Finding } from '../../kernel'
import { factsOf, type Snapshot, type UnitFacts } from '../../unit'
import type { Component } from '../../family'
import type { StepContext, Piece, StepAct } from '../step-context'
import { readUnit } from '../read-unit'
import { writes } from '../task'

/**
 * PRACTICE A1, B1: reads what the unit says of itself, at the last moment before anything is changed, and judges
 * fit once more on that. A unit whose firmware does not answer may sit in its bootloader: that is asked next.
 */
export const identify: StepAct = async (bench) => {
  const { driver, family, unit, wake, step, clock } = bench
  const { snapshot, inBootloader } = await readUnit(driver, family, clock.now)
  const now = inBootloader ? withLinesOf(snapshot, bench.lastPage) : snapshot
  bench.before = bench.firstPage ?? now
  bench.inBootloader = inBootloader
  bench.cameInBootloader = inBootloader
  // Only a unit that still waits in its bootloader holds what was written into it.
  if (!inBootloader || !bench.loader.can.resume) bench.goesOnAt = null
  if (inBootloader) {
    await wake.record({ type: 'note', step, says: 'The unit is in its bootloader already.' })
  }
  // A line that this link cannot say is taken from what was known before; one that it says stands.
  const facts = factsOf(withLinesOf(snapshot, bench.lastPage), family)
  const other = facts.serial !== undefined && facts.serial !== unit.serial
  // A page of another unit is kept, since it was read, and never counts as one of this unit's.
  const refused = other ? `serial ${facts.serial}, not ${unit.serial}` : undefined
  await wake.record({
    type: 'snapshot',
    step,
    when: 'before',
    snapshot,
    ...(refused === undefined ? {} : { refused }),
  })
  if (other) {
    throw new Problem({
      kind: 'wrong-unit',
      says: 'another unit is on the cable',
      expected: `serial ${unit.serial}`,
      found: `serial ${facts.serial}`,
      remedy: 'Nothing was written. Join the right unit, or open the job of this one.',
    })
  }
  // A task that writes nothing asks no fit: whatever is in the unit may be read, compared and read out.
  if (writes(bench)) await judgeAll(bench, facts)
}

/** Judges every image against the unit as it is now. @throws Problem `does-not-fit` that names the first against it. */
async function judgeAll(bench: StepContext, facts: UnitFacts): Promise<void> {
  const { wake, step, releases, pieces } = bench
  const findings = pieces.flatMap((piece) => judgeOne(bench, facts, piece))
  await wake.record({ type: 'findings', step, findings })
  const verdict = verdictAfter(findings, releases)
  const refusal = findings.find(({ level }) => level === verdict)
  if (verdict === 'stop' || verdict === 'hold' || verdict === 'unknown') {
    throw new Problem({
      kind: 'does-not-fit',
      says: (refusal?.says ?? 'Fit could not be judged.').replace(/\.$/, ''),
      ...(refusal ? { found: refusal.because } : {}),
      remedy: `Nothing was written. ${refusal?.remedy ?? ''}`.trim(),
    })
  }
}

/** What the fit of one image is on this unit; where the run is about several, each finding names its component. */
function judgeOne(
  bench: StepContext,
  facts: UnitFacts,
  { component, image, wrote = null }: Piece,
): Finding[] {
  if (!image) return []
  const { family, use, changed, pieces } = bench
  const { findings } = judgeFit({
    family,
    component,
    unit: withDigest(facts, component.id, wrote),
    image: { ...image, segments: rangesOf(image.memory) },
    ...(use ? { answers: use } : {}),
  })
  const wanted = image.identity?.version
  const same = wanted !== undefined && facts.versions[component.id] === wanted
  const judged = changed && same ? findings.map(unproved) : findings
  return pieces.length > 1 ? judged.map((each) => ofComponent(each, component)) : judged
}

const ofComponent = (finding: Finding, { name }: Component): Finding => ({
  ...finding,
  says: `${name}: ${inSentence(finding.says)}`,
})

/** What was written here before is known by its digest, as long as the unit says that version and no digest of its own. */
function withDigest(facts: UnitFacts, componentId: string, wrote: Piece['wrote']): UnitFacts {
  if (!wrote || facts.versions[componentId] !== wrote.version || facts.digests?.[componentId]) return facts
  return { ...facts, digests: { ...facts.digests, [componentId]: wrote.sha256 } }
}

/**
 * A unit that already says the version may have it from an earlier leg of this very run, which broke off before the proof:
 * then it is written again, and no reason to stop.
 */
const unproved = (finding: Finding): Finding =>
  (finding.rule === 'version-direction' || finding.rule === 'sequence-number') && finding.level === 'hold'
    ? {
        ...finding,
        level: 'note',
        because: `${finding.because} An earlier leg wrote it and did not prove it.`,
      }
    : finding

/**
 * The page as it is, with the lines that it cannot say, from the pages before; these carry where they were read, so that
 * the proof does not miss them in a page that cannot say them either.
 */
function withLinesOf(snapshot: Snapshot, lastPage: Snapshot | undefined): Snapshot {
  const said = new Set(snapshot.lines.map(({ field }) => field))
  const borrowed = (lastPage?.lines ?? []).filter(({ field }) => !said.has(field))
  return {
    ...snapshot,
    lines: [
      ...snapshot.lines,
      ...borrowed.map((line) => ({ ...line, source: line.source ?? lastPage!.source })),
    ],
  }
}
