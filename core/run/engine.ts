import { isProblem, Problem, type ProblemFacts } from '../kernel'
import { openLink, type Progress, type LinkDriver } from '../link'
import type { StepContext, RunRequest, Piece, RunEnvironment } from './step-context'
import { holdForSupply } from './hold-for-supply'
import { loadsOf } from './plan'
import { progressRecord } from './progress-record'
import type { Step, StepKind } from './step'
import { stepActs } from './steps'
import { writes } from './task'
import { tryAgain, type Tries } from './try-again'
import { JournalLost } from './wake'
import { watchSupply, type UnderWay } from './watch-supply'
import { whyUnrecorded, writeUnrecorded } from './write-unrecorded'

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

/** `proved`: written and proved by the unit itself; `done`: a task that writes nothing came to its end. */
export type Outcome = 'proved' | 'done' | 'failed' | 'abandoned' | 'cut'

/**
 * Carries out a plan. Every event is in the journal before its act; what fails is recorded and the run ends there,
 * never thrown away. A journal that cannot be written ends the run as cut: what is begun is brought to where the
 * protocol is best left (write-unrecorded.ts), and nothing that was not recorded is begun.
 * Resolves with the outcome; rejects only when a journal that keeps no debts cannot be written.
 * @param plan as the `run.opened` event holds it; that event is already recorded.
 */
export async function carryOut(
  plan: readonly Step[],
  request: RunRequest,
  environment: RunEnvironment,
): Promise<Outcome> {
  const { wake, answers, halt, abandon, clock } = environment
  const driver = linkDriverOf(request, environment)
  let underWay: (UnderWay & { behind: number }) | null = null
  const unrecorded = writeUnrecorded(request.link)
  let stopWrite = false
  let begun = false
  const progress = progressRecord(environment, () => {
    const { kind } = plan[bench.step]!
    // A write that cannot go on from the middle goes on to its last byte; its end is then not recorded either.
    if ((kind === 'write' || kind === 'erase') && unrecorded === 'go-on') return 'go-on'
    // The loader stops where its protocol does, between two blocks, as for a person who abandons it.
    if (kind === 'write') stopWrite = true
    return kind === 'write' ? 'go-on' : 'stop'
  })
  const pieces = [request, ...(request.also ?? [])]
  const loads = pieces.map(({ component, image }) => (image ? loadsOf(component, image.memory) : []))
  const takeUp = (piece: number) =>
    Object.assign(bench, inHand(driver, pieces, piece), { loads: loads[piece] })
  const bench: StepContext = {
    ...request,
    ...environment,
    abandon: {
      get raised() {
        return abandon.raised || stopWrite
      },
    },
    pieces,
    piece: 0,
    left: new Set(),
    loads: loads[0]!,
    driver,
    loader: driver.loader,
    step: 0,
    inBootloader: false,
    cameInBootloader: false,
    changed: request.alreadyWritten ?? false,
    before: null,
    planned: (from) => {
      const end = plan.findLastIndex(({ kind }) => kind === 'write')
      return plan.slice(from, end + 1).reduce((sum, { predictedMs }) => sum + predictedMs, 0)
    },
    async report(now: Progress) {
      if (underWay && bench.step === underWay.step && now.done > 0) {
        const { since } = underWay
        underWay.endsAt = since + ((clock.now() - since) * now.total) / now.done + underWay.behind
      }
      await progress.say({ type: 'progress', step: bench.step, ...now })
    },
    async ask(prompt) {
      const { id, ...asked } = prompt
      const offered =
        nothingDone(bench, request, plan) && !asked.answers.some(leavesIt)
          ? [...asked.answers, request.alreadyWritten ? { ...stopHere, says: 'Stop here' } : stopHere]
          : asked.answers
      await wake.record({ type: 'prompt.asked', step: bench.step, prompt: id, ...asked, answers: offered })
      supply.pause()
      const answer = await answers.wait(id)
      supply.resume()
      await wake.record({ type: 'prompt.answered', step: bench.step, prompt: id, answer })
      if (answer === stopHere.id && offered !== asked.answers) throw stoppedHere()
      return answer
    },
  }
  driver.withPerson?.({
    async ask({ says, caution }) {
      await bench.ask({
        id: 'link-asks',
        says,
        ...(caution === undefined ? {} : { caution }),
        answers: [{ id: 'done', says: 'Done' }],
      })
    },
    async type({ says, caution, as }) {
      const id = 'link-types'
      const answer = await bench.ask({
        id,
        says,
        ...(caution === undefined ? {} : { caution }),
        answers: [
          { id: 'typed', says: 'Send it to the unit' },
          { id: 'stop', says: 'I do not have it: stop here' },
        ],
        takes: as,
      })
      if (answer === 'typed') return answers.typed?.(id) ?? ''
      throw new Problem({
        kind: 'not-typed',
        says: 'nobody had what the unit asks for',
        expected: says,
        remedy: 'Get it from whoever keeps it for this unit, then go on with this run.',
      })
    },
    tell: (says) => wake.record({ type: 'note', step: bench.step, says }),
  })
  const supply = watchSupply(environment, () => underWay)
  const byHand = { asked: false }
  const tries: Tries = { asIs: 0, reEnter: 0, adapters: 0 }
  try {
    for (let index = 0; index < plan.length; index++) {
      const step = plan[index]!
      bench.step = index
      takeUp(step.piece ?? 0)
      begun = false
      await wake.record({ type: 'step.started', step: index })
      begun = true
      if (step.kind === 'identify') supply.start()
      try {
        underWay = null
        if (step.kind === 'erase' || step.kind === 'write') {
          await holdForSupply(bench, supply, byHand)
          const since = clock.now()
          const behind = bench.planned(index + 1)
          underWay = {
            step: index,
            since,
            endsAt: since + step.predictedMs + behind,
            behind,
            floorVolts: request.family.power.floorVolts,
          }
        }
        await stepActs[step.kind](bench)
        await progress.settle()
      } catch (error) {
        if (error instanceof JournalLost || progress.lost()) throw error
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
    const outcome = writes(request) ? 'proved' : 'done'
    await wake.record({ type: 'run.closed', outcome })
    return outcome
  } catch (error) {
    await supply.end()
    await progress.settle().catch(() => {})
    const lost = progress.lost() ?? (error instanceof JournalLost ? error : null)
    try {
      if (lost) throw lost
      if ((abandon.raised && isProblem(error, 'write-abandoned')) || isProblem(error, 'stopped-here')) {
        await wake.record({ type: 'run.closed', outcome: 'abandoned' })
        return 'abandoned'
      }
      await wake.record({ type: 'failed', step: bench.step, problem: factsOfError(error) })
      return 'failed'
    } catch (unwritten) {
      if (!(unwritten instanceof JournalLost)) throw unwritten
      const unsaid = progress.unsaid()
      if (unsaid) await wake.owe(unsaid)
      const writing = begun && plan[bench.step]!.kind === 'write'
      const trouble = error instanceof JournalLost || stopWrite ? null : factsOfError(error)
      await wake.owe({ type: 'cut', why: whyUnrecorded(unwritten, writing ? unrecorded : null, trouble) })
      return 'cut'
    }
  } finally {
    await driver.close().catch(() => {})
  }
}

/** What the steps find on the bench of the component that they are about. */
function inHand(driver: LinkDriver, pieces: readonly Piece[], piece: number) {
  const { component, image, wrote = null, firstHere = true } = pieces[piece]!
  return { piece, component, image, wrote, firstHere, loader: driver.loaderOf?.(component) ?? driver.loader }
}

/** The way out of every question until the first byte. */
const stopHere = { id: 'stop', says: 'Stop here, nothing is written' }
const leavesIt = ({ id }: { id: string }) => id === stopHere.id || id === 'keep'
const stoppedHere = () =>
  new Problem({
    kind: 'stopped-here',
    says: 'it was stopped before the first byte',
    remedy: 'Start again when the bench is as it must be.',
  })

/** True while this leg has neither erased nor written, nor taken a chip out. */
function nothingDone(
  { step, changed }: Pick<StepContext, 'step' | 'changed'>,
  { alreadyWritten = false }: Pick<RunRequest, 'alreadyWritten'>,
  plan: readonly Step[],
): boolean {
  const first = plan.findIndex(
    ({ kind }) => kind === 'erase' || kind === 'write' || kind === 'swap' || kind === 'media',
  )
  return changed === alreadyWritten && (first < 0 || step < first)
}

function linkDriverOf(
  { family, link, component }: RunRequest,
  { channel, clock }: RunEnvironment,
): LinkDriver {
  if (link && channel) return openLink(channel, clock, family, link, component)
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
const handsOnly: LinkDriver = {
  loader: {
    can: { read: false, erase: false, verify: 'version-only', resume: false },
    attach: noLink,
    identify: noLink,
    erase: noLink,
    write: noLink,
    verify: noLink,
    startApplication: noLink,
  },
  open: noLink,
  close: async () => {},
  page: noLink,
  probeBootloader: async () => ({ bootloader: null }),
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
