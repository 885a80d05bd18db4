import { Problem, verdictOf } from '../../kernel'
import { isSilence } from '../../link'
import { compareSnapshots, judgeProof, judgeUnchanged } from '../../proof'
import { readSnapshot, type Snapshot } from '../../unit'
import { showsNoPage } from '../shows-page'
import type { StepContext, StepAct } from '../step-context'
import { writes } from '../task'
import { askShown, type Shown } from './look'

/** A firmware that is still starting does not answer the first time. */
const tries = 3
const startsWithinMs = 500

/**
 * PRACTICE I1: reads every line again, from the unit itself, and compares it with the page before. Where nothing was
 * written, nothing may have changed.
 */
export const prove: StepAct = async (bench) => {
  const { family, pieces, before, wake, step } = bench
  if (!writes(bench) && bench.cameInBootloader)
    return wake.record({ type: 'note', step, says: 'Nothing to compare: it has no page in its bootloader.' })
  const read = await readAfter(bench)
  const person = writes(bench) && bench.link && showsNoPage(bench.link) ? await seenBy(bench) : null
  const snapshot = person ? { ...read, lines: [...read.lines, ...person.lines] } : read
  await wake.record({ type: 'snapshot', step, when: 'after', snapshot })
  const saysNow = new Set(snapshot.lines.map(({ field }) => field))
  const comparable = before && {
    ...before,
    lines: before.lines.filter(({ field, source }) => source === undefined || saysNow.has(field)),
  }
  const asked = pieces.map(({ component, image }) => ({
    componentId: component.id,
    ...(pieces.length > 1 ? { name: component.name } : {}),
    wanted: image?.identity?.version,
    options: image?.identity?.options,
    after: snapshot,
  }))
  const rows = compareSnapshots(family, comparable, snapshot, writes(bench) ? asked : null)
  const findings = writes(bench) ? judgeProof(rows, asked) : judgeUnchanged(rows)
  await wake.record({ type: 'compared', step, rows, findings })
  const missed = person?.seen.find((seen) => seen === 'none' || seen === 'other')
  if (missed) {
    throw new Problem({
      kind: 'not-proved',
      says: missed === 'none' ? 'the unit shows no version' : 'the unit shows another version',
      found: 'Seen by the person after the power cycle: this link cannot read it.',
      remedy: 'Do not hand it back. Look again; if it stays so, write again.',
    })
  }
  const against = findings.find(({ level }) => level === 'stop')
  if (verdictOf(findings) === 'stop' && against) {
    throw new Problem({
      kind: writes(bench) ? 'not-proved' : 'unit-changed',
      says: against.says.replace(/\.$/, ''),
      found: against.because,
      remedy: against.remedy ?? 'Read the unit again.',
    })
  }
}

/** PRACTICE I1 where the link reads nothing of the firmware: each version as the person sees it on the unit. */
async function seenBy(bench: StepContext): Promise<{ lines: Snapshot['lines']; seen: Shown[] }> {
  const lines: Snapshot['lines'] = []
  const all: Shown[] = []
  for (const { component, image } of bench.pieces) {
    const wanted = image?.identity?.version
    const { field, label, line, seen } = await askShown(bench, component, wanted)
    all.push(seen)
    if (seen === 'wanted') lines.push({ field, label, value: wanted!, source: line?.by ?? 'boot-screen' })
  }
  return { lines, seen: all }
}

/** The unit's page after the write, as it says it now. */
export async function readAfter(bench: StepContext): Promise<Snapshot> {
  const { lines, inBootloader } = await readPage(bench)
  return {
    ...readSnapshot(bench.family, lines, bench.clock.now(), 'link'),
    ...(inBootloader ? { inBootloader } : {}),
  }
}

async function readPage({
  driver,
  wake,
  step,
  clock,
}: StepContext): Promise<{ lines: string[]; inBootloader: boolean }> {
  for (let attempt = 1; ; attempt++) {
    try {
      const { lines, inBootloader } = await driver.page()
      if (!inBootloader || attempt === tries) return { lines, inBootloader }
      await wake.record({ type: 'retry', step, why: 'The unit is still in its bootloader.' })
    } catch (error) {
      if (!isSilence(error) || attempt === tries) throw error
      await wake.record({ type: 'retry', step, why: 'The new firmware did not answer yet.' })
    }
    await clock.sleep(startsWithinMs)
  }
}
