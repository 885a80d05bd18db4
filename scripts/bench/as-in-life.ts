import { componentOf, drivenLink } from '@bench-wake/core/family'
import { identifyImage } from '@bench-wake/core/image'
import { sha256Hex, virtualClock } from '@bench-wake/core/kernel'
import { carryOut, foldWake, loadsOf, planRun, wakeWriter, type WakeEvent } from '@bench-wake/core/run'
import { knownPage } from '@bench-wake/core/unit'
import { demoFamily, demoFieldsOf, demoStandIn, demoUnits, placed } from '@bench-wake/demo'
import { standInOf } from '@bench-wake/standins'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { hostTime, nextTurn, paceOf } from '../../server/host-time'
import { releasesOf, scenarios, type Scenario } from '../../core/run/scenarios.test-support'
import { worstTimeLeft } from '../../core/run/simulate-run.test-support'
import type { Bench, Figure } from './figure'

/** Largest error of the time left, as a share of the truth, over all runs. */
let worstLeft = 0

/** A whole run in real time: how it ended, and the write against its prediction. */
async function live(scenario: Scenario): Promise<Figure> {
  const { unitId, linkId, component: componentId, fields } = scenario
  const clock = virtualClock(nextTurn, Date.now(), paceOf(1))
  const demo = demoUnits.find(({ id }) => id === unitId)!
  const family = demoFamily(demo.familyId)
  const { hardware, flash, lines } = demoStandIn(demo)
  const state = { flash, usedAh: 0, inBootloader: false, lines }
  const { name, serial, place } = demo
  const unit = standInOf({ id: unitId, name, family, hardware, serial, state }, linkId)
  unit.unplug?.(family.isolation?.neighbours.map(({ id }) => id) ?? [])
  const component = componentOf(family, componentId)
  const link = drivenLink(family, linkId)!
  const memory = placed(family, demoFieldsOf(family.id, componentId, { ...fields, serial }))
  const events: WakeEvent[] = []
  const wake = wakeWriter({ append: async (event) => void events.push(event) }, clock)
  const plan = planRun(family, component, link, loadsOf(component, memory))
  await wake.record({
    type: 'run.opened',
    runId: unitId,
    job: { id: unitId, reason: 'bench' },
    unit: { id: unitId, name, place, serial },
    family: { id: family.id, revision: family.revision, name: family.name },
    component: { id: componentId, name: component.name },
    image: { id: 'i', name: 'image', sha256: '0', bytes: memory[0]!.bytes.length },
    port: { id: unitId, name, standIn: true },
    speed: 1,
    floorVolts: family.power.floorVolts,
    releases: releasesOf(scenario),
    plan,
  })
  const outcome = await carryOut(
    plan,
    {
      family,
      component,
      link,
      unit: { id: unitId, serial },
      lastPage: knownPage(
        demo.pages.map(({ source, at, lines: said }) => ({
          at: Date.parse(at),
          source,
          lines: Object.entries(said).map(([field, value]) => ({ field, label: field, value })),
        })),
      ),
      image: {
        name: 'image',
        memory,
        identity: identifyImage(memory, [family], [sha256Hex(memory[0]!.bytes)]),
      },
      use: { 'signal-output': 'low-channel' },
      releases: releasesOf(scenario),
    },
    {
      channel: unit.connect(clock).channel,
      clock,
      wake,
      answers: {
        async wait(prompt) {
          if (prompt === 'power-cycle') unit.powerCycle()
          if (prompt === 'enter-by-hand') unit.enter?.()
          return 'done'
        },
      },
      abandon: { raised: false },
      halt: { raised: false },
    },
  )
  const at = plan.findIndex(({ kind }) => kind === 'write')
  const { startedAt = 0, endedAt = 0 } = foldWake(events)!.steps[at]!
  const worst = worstTimeLeft(events, plan)
  worstLeft = Math.max(worstLeft, worst)
  const ratio = (endedAt - startedAt) / plan[at]!.predictedMs
  return {
    name: `${name}: ${outcome}, its write against the prediction`,
    value: endedAt - startedAt,
    unit: 'ms',
    reference: plan[at]!.predictedMs,
    ratio,
    wanted: 'proved, within a tenth',
    holds: outcome === 'proved' && Math.abs(ratio - 1) <= 0.1,
  }
}

/** Every driven family at once in real time, side by side in one process. */
export const asInLife: Bench = {
  name: 'as-in-life',
  async measure() {
    const began = hostTime.now()
    const delay = monitorEventLoopDelay({ resolution: 5 })
    delay.enable()
    const figures = await Promise.all(scenarios.map(live))
    const longest = Math.max(...figures.map(({ value }) => value))
    delay.disable()
    const late = delay.percentile(99) / 1e6
    return [
      ...figures,
      {
        name: 'time left from a fifth to the last fiftieth of the write: largest error',
        value: 100 * worstLeft,
        unit: '%',
        wanted: 'at most 10 %',
        holds: worstLeft <= 0.1,
      },
      {
        name: 'turn of the event loop meanwhile, 99th percentile',
        value: late,
        unit: 'ms',
        wanted: 'under 50 ms',
        holds: late < 50,
      },
      {
        name: `${scenarios.length} runs side by side`,
        value: hostTime.now() - began,
        unit: 'ms',
        reference: longest,
      },
    ]
  },
}
