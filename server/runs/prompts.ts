import { fitsBytes, Problem } from '@bench-wake/core/kernel'
import { conditionOf, guidance } from '@bench-wake/core/run'
import { randomUUID } from 'node:crypto'
import type { ActiveRun } from './active-run'

/** Resolves with the answer to a run's question. */
export function answerTo(run: ActiveRun, prompt: string): Promise<string> {
  return new Promise((resolve) => {
    run.onWaiting()
    run.answers.set(prompt, (answer) => {
      run.answers.delete(prompt)
      resolve(answer)
    })
  })
}

/** What was typed with the last answer, taken once. */
export function typedWith(run: ActiveRun, prompt: string): string {
  const typed = run.typed.get(prompt) ?? ''
  run.typed.delete(prompt)
  return typed
}

/**
 * @param typed what goes with the answer `typed`.
 * @throws Problem `prompt-not-open` when nothing is asked, or another thing, or that is no answer to it; `input` where what
 * is typed is not what is asked for.
 */
export function answerRun(
  run: ActiveRun | undefined,
  runId: string,
  prompt: string,
  answer: string,
  typed?: string,
): void {
  const asked = run?.state?.prompt
  const take = run?.answers.get(prompt)
  if (!take || asked?.prompt !== prompt || !asked.answers.some(({ id }) => id === answer)) {
    throw new Problem({
      kind: 'prompt-not-open',
      thing: runId,
      place: { at: prompt },
      says: asked ? 'another question is open' : 'no question is open',
      ...(asked ? { expected: `${asked.prompt}: ${asked.answers.map(({ id }) => id).join(' or ')}` } : {}),
      found: `${prompt}: ${answer}`,
      remedy: 'Look at the run as it stands now and answer what it asks.',
    })
  }
  if (answer === 'typed') run!.typed.set(prompt, typedFor(asked.takes, typed))
  take(answer)
}

/** What a person typed, as the link takes it. @throws Problem `input`. */
function typedFor(takes: 'text' | 'hex' | undefined, typed = ''): string {
  const text = takes === 'hex' ? typed.replace(/\s/g, '') : typed
  if (takes === 'hex' ? /^([0-9A-Fa-f]{2})+$/.test(text) : text !== '' && fitsBytes(text)) return text
  throw new Problem({
    kind: 'input',
    place: { at: 'typed' },
    says:
      takes === 'hex'
        ? 'these are no pairs of hexadecimal digits'
        : text === ''
          ? 'nothing was typed'
          : 'a serial line has no such character',
    ...(takes === 'hex' ? { expected: 'digits 0 to 9 and A to F, two for each byte: 12 AB 34' } : {}),
    remedy: 'Type it as its source gives it. Nothing was sent to the unit.',
  })
}

/** What abandoning leaves behind, with the token that its second step needs. */
export interface AbandonOffer {
  token: string
  leaves: string
  next: string
}

/**
 * Abandons a run in two steps: the first says what will be left behind and gives a token, the second needs it.
 * @throws Problem `run-over`; `input` for a wrong token.
 */
export async function abandonRun(
  run: ActiveRun | undefined,
  runId: string,
  token?: string,
): Promise<AbandonOffer | null> {
  if (!run?.state || run.state.outcome !== 'running') {
    throw new Problem({
      kind: 'run-over',
      thing: runId,
      says: 'this run is not under way',
      remedy: 'There is nothing to abandon.',
    })
  }
  const left = guidance[conditionOf(run.state)]
  const open = run.state.open === null ? undefined : run.state.steps[run.state.open]
  if (open?.kind !== 'write') {
    throw new Problem({
      kind: 'run-over',
      thing: runId,
      says: `the run is at "${open?.says ?? 'its start'}" and cannot be abandoned there`,
      remedy: 'It ends by itself in a moment, or waits for your answer.',
    })
  }
  if (token === undefined) {
    run.abandon.token = randomUUID()
    return { token: run.abandon.token, leaves: left.says, next: left.next }
  }
  if (token !== run.abandon.token) {
    throw new Problem({
      kind: 'input',
      place: { at: 'token' },
      says: 'this is not the second step of an abandon that was begun',
      remedy: 'Begin it again and read what will be left behind.',
    })
  }
  await run.wake.record({ type: 'abandon.asked', step: run.state.open! })
  run.abandon.raised = true
  return null
}
