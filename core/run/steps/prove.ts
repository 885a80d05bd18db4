import { Problem, verdictOf } from '../../kernel'
import { isSilence } from '../../link'
import { compareSnapshots, judgeProof, judgeUnchanged } from '../../proof'
import { readSnapshot, type Snapshot } from '../../unit'
import type { StepContext, StepAct } from '../step-context'
import { writes } from '../task'

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
  const snapshot = await readAfter(bench)
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
