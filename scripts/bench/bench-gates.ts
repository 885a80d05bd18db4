import { componentOf } from '@bench-wake/core/family'
import { usualWorkshopRules } from '@bench-wake/core/fit'
import { benchGates, joinKits, judgeJobPower, kitOf } from '@bench-wake/core/ready'
import { planElsewhere, stretchesOf } from '@bench-wake/core/run'
import { demoAdapters, demoBenches, demoFamilies, demoFamily } from '@bench-wake/demo'
import { medianMs, type Bench } from './figure'

/** The whole bench of a job judged anew, as at every key; and the chart's own course with it. */
export const benchGate: Bench = {
  name: 'bench-gates',
  async measure() {
    const asked = demoFamilies.map(({ id }) => {
      const family = demoFamily(id)
      const region = componentOf(family).memory.regions.find(({ use }) => use === 'application')!
      const plan = planElsewhere(family, componentOf(family), [
        { address: region.address, length: region.length },
      ])
      const kit = kitOf(family, { unitName: id, adapter: null, imageName: 'image', chargerAmps: null })
      return {
        family,
        said: demoBenches[id]!,
        stretches: stretchesOf(family.power, plan),
        metered: null,
        adapters: demoAdapters,
        workshopRules: usualWorkshopRules,
        kit: joinKits([kit], new Set()),
        day: '2026-11-25',
        today: '2026-11-25',
        now: 0,
        standIn: false,
      }
    })
    const times: number[] = []
    for (const each of asked) times.push(await medianMs(9, () => benchGates(each)))
    // The launch motor with an empty battery is the heaviest: charger sizes and shed lists are searched.
    const launch = asked.find(({ family }) => family.id === 'launch-motor')!
    const low = {
      ...launch.said,
      charger: null,
      shed: [],
      measured: { volts: 12.0, shed: [], charger: null },
    }
    const heaviest = await medianMs(9, () => judgeJobPower(launch.family, low, launch.stretches, null))
    const figure = (name: string, value: number) => ({
      name,
      value,
      unit: 'ms',
      reference: 50,
      ratio: value / 50,
      wanted: 'under 50 ms',
      holds: value < 50,
    })
    return [
      figure('Every gate of a bench judged, slowest of ten families', Math.max(...times)),
      figure('A supply that sags, with charger and shed list searched', heaviest),
    ]
  },
}
