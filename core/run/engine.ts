import { isProblem, Problem, type ProblemFacts } from '../kernel'
import { talkOver, type Progress, type Talk } from '../link'
import type { Bench, Errand, World } from './bench'
import { loadsOf } from './plan'
import type { Step, StepKind } from './step'
import { stepActs } from './steps'
import { holdForSupply } from './hold-for-supply'
import { tryAgain, type Tries } from './try-again'
import { watchSupply, type UnderWay } from './watch-supply'

/** Behind these steps the unit is neither half written nor unproved by our doing: a run may stop there. */
const safeAfter: ReadonlySet<StepKind> = new Set([
  'power-up',
  'connect',
  'identify',
  'settings',
  'enter',
  'backup',
  'compare',
  'dry-run',
  'prove',
])

export type Outcome = 'proved' | 'failed' | 'abandoned' | 'cut'

/**
 * Carries out a plan. Every event is in the journal before its act; what fails is recorded and the run ends there,
 * never thrown away. Resolves with the outcome; rejects only when the journal itself cannot be written.
 * @param plan as the `run.opened` event holds it; that event is already recorded.
 */
export async function carryOut(plan: readonly Step[], errand: Errand, world: World): Promise<Outcome> {
  const { wake, answers, halt, abandon, clock } = world
  const talk = talkOf(errand, world)
  let written: Promise<void> = Promise.resolve()
  let underWay: (UnderWay & { behind: number }) | null = null
  const bench: Bench = {
    ...errand,
    ...world,
    loads: loadsOf(errand.component, errand.image.memory),
    talk,
    loader: talk.loader,
    step: 0,
    inBootloader: false,
    changed: errand.alreadyWritten ?? false,
    before: null,
    planned: (from) => {
      const end = plan.findIndex(({ kind }) => kind === 'write')
      return plan.slice(from, end + 1).reduce((sum, { predictedMs }) => sum + predictedMs, 0)
    },
    async report(progress: Progress) {
      // One record behind at most: the link carries the next block while the disk takes this one.
      await written
      if (underWay && bench.step === underWay.step && progress.done > 0) {
        const { since } = underWay
        underWay.endsAt = since + ((clock.now() - since) * progress.total) / progress.done + underWay.behind
      }
      written = wake.record({ type: 'progress', step: bench.step, ...progress })
      written.catch(() => {})
    },
    async ask(prompt) {
      const { id, ...asked } = prompt
      await wake.record({ type: 'prompt.asked', step: bench.step, prompt: id, ...asked })
      supply.pause()
      const answer = await answers.wait(id)
      supply.resume()
      await wake.record({ type: 'prompt.answered', step: bench.step, prompt: id, answer })
      return answer
    },
  }
  const supply = watchSupply(world, () => underWay)
  const tries: Tries = { asIs: 0, reEnter: 0, adapters: 0 }
  try {
    for (let index = 0; index < plan.length; index++) {
      const step = plan[index]!
      bench.step = index
      await wake.record({ type: 'step.started', step: index })
      if (step.kind === 'identify') supply.start()
      try {
        underWay = null
        if (step.kind === 'erase' || step.kind === 'write') {
          await holdForSupply(bench, supply)
          const since = clock.now()
          const behind = bench.planned(index + 1)
          underWay = {
            step: index,
            since,
            endsAt: since + step.predictedMs + behind,
            behind,
            floorVolts: errand.family.power.floorVolts,
          }
        }
        await stepActs[step.kind](bench)
        await written
      } catch (error) {
        const back = await tryAgain(bench, plan, error, tries)
        if (back === null) throw error
        // The step that failed is opened again, or the one before it: the record shows both tries.
        index = back - 1
        continue
      }
      await wake.record({ type: 'step.done', step: index })
      if (halt.raised && safeAfter.has(step.kind) && index < plan.length - 1) {
        await supply.end()
        await wake.record({
          type: 'cut',
          why: 'The program was told to end and stopped here, at a safe point.',
        })
        return 'cut'
      }
    }
    await supply.end()
    await wake.record({ type: 'run.closed', outcome: 'proved' })
    return 'proved'
  } catch (error) {
    await supply.end()
    await written.catch(() => {})
    if (abandon.raised && isProblem(error, 'write-abandoned')) {
      await wake.record({ type: 'run.closed', outcome: 'abandoned' })
      return 'abandoned'
    }
    await wake.record({ type: 'failed', step: bench.step, problem: factsOfError(error) })
    return 'failed'
  } finally {
    await talk.close().catch(() => {})
  }
}

function talkOf({ family, link, component }: Errand, { channel, clock }: World): Talk {
  if (link && channel) return talkOver(channel, clock, family, link, component)
  return handsOnly
}

const noLink = async (): Promise<never> => {
  throw new Problem({
    kind: 'no-link',
    says: 'this image goes in by hand, not over a link',
    remedy: 'Follow the steps of the plan.',
  })
}
/** Where a chip is changed in its socket there is nobody to talk to. */
const handsOnly: Talk = {
  loader: {
    can: { read: false, erase: false, verify: 'version-only', resume: false },
    attach: noLink,
    identify: noLink,
    erase: noLink,
    write: noLink,
    verify: noLink,
    leave: noLink,
  },
  open: noLink,
  close: async () => {},
  page: noLink,
  hears: async () => ({ bootloader: null }),
}

function factsOfError(error: unknown): ProblemFacts {
  if (isProblem(error)) return error.facts
  return new Problem({
    kind: 'defect',
    says: 'the program itself failed',
    found: error instanceof Error ? error.message : String(error),
    remedy: 'Leave the unit as it is, read it again, and report this.',
  }).facts
}
