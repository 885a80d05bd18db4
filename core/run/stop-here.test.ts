import { describe, expect, it } from 'vitest'
import { flashOf241, rehearse, turn } from './rehearsal.test-support'
import { scenarios } from './scenarios.test-support'
import { simulateRun } from './simulate-run.test-support'
import { conditionOf, troubleAt, type WakeEvent } from '.'

type Asked = Extract<WakeEvent['body'], { type: 'prompt.asked' }>
const asked = (events: readonly WakeEvent[]) =>
  events.flatMap(({ body }) => (body.type === 'prompt.asked' ? [body as Asked] : []))
/** Ways out that leave the unit as it is. */
const leaves = ({ answers }: Asked) => answers.some(({ id }) => id === 'stop' || id === 'keep')

// A person who sees that something is wrong has a way out of every question until the first byte (common practice, H4).
describe('between the start and the first byte', () => {
  it('every question can be answered with stop; after it none can', async () => {
    for (const scenario of scenarios) {
      const { events } = await simulateRun(scenario, [], 5, turn)
      const plan = events.flatMap(({ body }) => (body.type === 'run.opened' ? body.plan : []))
      const changing = plan.findIndex(({ kind }) => kind === 'erase' || kind === 'write')
      for (const prompt of asked(events)) {
        expect([scenario.unitId, prompt.prompt, leaves(prompt)]).toEqual([
          scenario.unitId,
          prompt.prompt,
          // The supply is measured in the step that erases, before its first sector.
          prompt.step < changing || prompt.prompt === 'supply-by-hand',
        ])
      }
    }
  })

  it('a run that is stopped there leaves the unit as it was, and is no failure', async () => {
    const whole = await rehearse()
    const before = asked(whole.events).filter(leaves)
    expect(before.length).toBeGreaterThan(1)
    for (const { prompt } of before) {
      const { outcome, state, events, flash } = await rehearse({
        says: (each) => (each === prompt ? 'stop' : undefined),
      })
      expect([prompt, outcome, state.outcome, state.problem]).toEqual([
        prompt,
        'abandoned',
        'abandoned',
        null,
      ])
      expect(['as-it-was', 'in-bootloader']).toContain(conditionOf(state))
      expect(troubleAt(state)).toBe('Stopped before the first byte. Nothing was written.')
      expect(events.at(-1)!.body).toEqual({ type: 'run.closed', outcome: 'abandoned' })
      expect(flash).toEqual(flashOf241())
    }
  })

  it('so can those of a later leg, which leaves a half-written unit half written', async () => {
    for (let seed = 1; seed < 30; seed++) {
      const { events } = await simulateRun(scenarios[0]!, ['cable pulled'], seed, turn)
      const leg = events.findIndex(({ body }) => body.type === 'leg.opened')
      const before = events
        .slice(0, Math.max(leg, 0))
        .some(({ body }) => body.type === 'progress' && body.unit === 'bytes' && body.done > 0)
      const [question] = asked(events.slice(Math.max(leg, 0)))
      if (leg < 0 || !before || !question) continue
      expect([question.prompt, leaves(question)]).toEqual([question.prompt, true])
      return
    }
    throw new Error('no simulated run was cut in its write')
  })

  it('the next leg goes on where the first one was stopped', async () => {
    const { state } = await simulateRun(scenarios[0]!, [], 5, turn)
    expect(state.outcome).toBe('proved')
  })
})
