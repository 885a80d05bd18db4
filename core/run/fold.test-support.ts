import { foldWake, type RunState, type WakeEvent } from '.'
import type { StepKind } from './step'
import type { BodyOf, WakeBody } from './wake'

/* A run said event by event, as tests of what it comes to need it. */

export const step = (kind: StepKind, predictedMs: number, more: object = {}) => ({
  kind,
  says: kind,
  predictedMs,
  personMs: 0,
  handsOff: false,
  ...more,
})
/** identify 0, backup 1, enter 2, compare 3, erase 4, write 5, verify 6, restart 7, prove 8. */
export const oneImage = [
  step('identify', 1000),
  step('backup', 6000),
  step('enter', 2000, { personMs: 3000 }),
  step('compare', 500),
  step('erase', 4000),
  step('write', 10_000),
  step('verify', 3000),
  step('restart', 1000),
  step('prove', 2000),
]
export const opened = (form: Partial<BodyOf<'run.opened'>> = {}): WakeBody => ({
  type: 'run.opened',
  runId: 'run-1',
  job: { id: 'job-1', reason: 'It shuts too late.' },
  unit: { id: 'unit-1', name: 'North gate', place: 'North sluice', serial: 'N-1' },
  family: { id: 'gate', revision: 2, name: 'Gate drive' },
  component: { id: 'main', name: 'Main board' },
  image: { id: 'image-1', name: 'gate.hex', sha256: 'ab', bytes: 8000 },
  port: { id: 'serial:1', name: 'First port', standIn: false },
  speed: 1,
  floorVolts: 11.5,
  releases: [],
  plan: oneImage as never,
  ...form,
})
export type Spoken = WakeBody | [at: number, body: WakeBody]
/** Events in a row: each a second after the one before, where it does not say when. */
export function wake(...bodies: Spoken[]): WakeEvent[] {
  let at = -1000
  return bodies.map((each, index) => {
    const [when, body] = Array.isArray(each) ? each : [at + 1000, each]
    at = when
    return { seq: index + 1, at, body, prev: '', hash: '' }
  })
}
export const folded = (...bodies: Spoken[]): RunState => foldWake(wake(...bodies))!
export const started = (index: number): WakeBody => ({ type: 'step.started', step: index })
export const done = (index: number): WakeBody => ({ type: 'step.done', step: index })
export const progress = (index: number, of: number, total = 8000, more: object = {}): WakeBody => ({
  type: 'progress',
  step: index,
  done: of,
  total,
  unit: 'bytes',
  retries: 0,
  ...more,
})
export const failed = (index: number): WakeBody => ({
  type: 'failed',
  step: index,
  problem: { kind: 'link', says: 'the unit does not answer', remedy: 'Look at the plug.' },
})
export const cut: WakeBody = { type: 'cut', why: 'the program ended' }
export const asked = (index: number, prompt = 'power-up'): WakeBody => ({
  type: 'prompt.asked',
  step: index,
  prompt,
  says: 'Battery switch on.',
  answers: [{ id: 'done', says: 'Done' }],
})
export const answered = (index: number): WakeBody => ({
  type: 'prompt.answered',
  step: index,
  prompt: 'power-up',
  answer: 'done',
})
