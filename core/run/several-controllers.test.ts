import { drivenLink } from '@bench-wake/core/family'
import { identifyImage } from '@bench-wake/core/image'
import { practiceForm, practiceImage, standInOf, unitMemoryOf } from '@bench-wake/standins'
import { twoControllers } from '@bench-wake/testing/two-controllers'
import { expect, it } from 'vitest'
import { sha256Hex, virtualClock } from '../kernel'
import { carryOut, foldWake, loadsOf, planPieces, wakeWriter, type RunState, type WakeEvent } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const facts = { versions: { drive: '3.6', charger: '1.0' }, hardwareMajor: 2, layout: 'L-204' }

/**
 * A whole run of both controllers of a unit, one after the other.
 * @param charger the identifier that the charger is really asked by: from the beginning, or from the power cycle on.
 */
async function rehearse({
  charger = {},
  chargerAfter = {},
}: { charger?: { requestId?: number }; chargerAfter?: { requestId?: number } } = {}) {
  const family = twoControllers()
  const clock = virtualClock(turn, Date.UTC(2026, 10, 24, 8))
  const { hardware, flash, lines } = practiceForm(family, 'LM-1', facts as never, { layout: 'L-204' })
  const before = sha256Hex(flash)
  const state = { flash, usedAh: 0, inBootloader: false, lines }
  const played = structuredClone(family)
  const { drive } = drivenLink(played)!
  if (drive.speaks === 'uds') Object.assign(drive.controllers![0]!, charger)
  const unit = standInOf({ id: 'x', name: 'Launch', family: played, hardware, serial: 'LM-1', state })
  const link = drivenLink(family)!
  const pieces = family.components.map((component) => {
    const memory = practiceImage(family, component, 'LM-1', facts as never, { layout: 'L-204' })
    const identity = identifyImage(memory, [family], [sha256Hex(memory[0]!.bytes)])
    return { component, loads: loadsOf(component, memory), image: { name: component.id, memory, identity } }
  })
  const plan = planPieces(family, link, pieces)
  const events: WakeEvent[] = []
  const wake = wakeWriter({ append: async (event) => void events.push(event) }, clock)
  const [first, ...also] = pieces
  await wake.record({
    type: 'run.opened',
    runId: 'run-1',
    job: { id: 'job-1', reason: 'test' },
    unit: { id: 'x', name: 'Launch', place: 'North quay', serial: 'LM-1' },
    family: { id: family.id, revision: family.revision, name: family.name },
    component: { id: first!.component.id, name: first!.component.name },
    image: { id: 'i', name: 'image', sha256: '0', bytes: first!.image.memory[0]!.bytes.length },
    also: also.map(({ component, image }) => ({
      component: { id: component.id, name: component.name },
      image: { id: component.id, name: image.name, sha256: '0', bytes: image.memory[0]!.bytes.length },
    })),
    port: { id: 'p', name: 'stand-in', standIn: true },
    speed: 0,
    floorVolts: family.power.floorVolts,
    releases: [],
    plan,
  })
  const outcome = await carryOut(
    plan,
    {
      family,
      component: first!.component,
      link,
      unit: { id: 'x', serial: 'LM-1' },
      image: first!.image,
      also: also.map(({ component, image }) => ({ component, image })),
      releases: [],
    },
    {
      channel: unit.connect(clock).channel,
      clock,
      wake,
      answers: {
        async wait(prompt) {
          if (prompt === 'power-cycle') {
            if (drive.speaks === 'uds') Object.assign(drive.controllers![0]!, chargerAfter)
            unit.powerCycle()
          }
          return 'done'
        },
      },
      abandon: { raised: false },
      halt: { raised: false },
    },
  )
  return { outcome, family, flash, before, pieces, plan, events, state: foldWake(events) as RunState }
}

it('both controllers of a unit are written, each by its own services, and proved by one page', async () => {
  const { outcome, family, flash, pieces, events, state } = await rehearse()
  expect(events.find(({ body }) => body.type === 'failed')?.body).toBeUndefined()
  expect(outcome).toBe('proved')
  for (const { component, image } of pieces) {
    const { bytes } = image.memory[0]!
    const own = unitMemoryOf(family, flash, component.id).subarray(0, bytes.length)
    expect(Buffer.compare(own, bytes)).toBe(0)
  }
  expect(state.outcome).toBe('proved')
})

it('one of them that says no version after the power cycle is not proved by the other', async () => {
  const { outcome, state } = await rehearse({ chargerAfter: { requestId: 0x7e4 } })
  expect(outcome).toBe('failed')
  expect(state.outcome).toBe('failed')
})

it('a controller that is not at its identifier is named before anything of the other is erased', async () => {
  const { outcome, flash, before, events, plan } = await rehearse({ charger: { requestId: 0x7e4 } })
  expect(outcome).toBe('failed')
  const failed = events.flatMap(({ body }) => (body.type === 'failed' ? [body] : []))
  expect(failed).toMatchObject([{ problem: { kind: 'uds-silent' } }])
  expect(failed[0]!.step).toBeLessThan(plan.findIndex(({ kind }) => kind === 'erase'))
  expect(sha256Hex(flash)).toBe(before)
})
