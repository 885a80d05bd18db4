import { medianMs, type Bench } from './figure'
import { rehearse } from '../../core/run/rehearsal.test-support'

/** Whole runs on a stand-in in virtual time: how many a second, and whether each is proved. */
export const rehearsal: Bench = {
  name: 'rehearsal',
  async measure() {
    let proved = 0
    let all = 0
    const ms = await medianMs(9, async () => {
      all++
      if ((await rehearse()).outcome === 'proved') proved++
    })
    return [
      { name: 'A whole run, 256 KiB, in virtual time', value: ms, unit: 'ms' },
      {
        name: 'Runs proved',
        value: proved,
        unit: 'runs',
        reference: all,
        ratio: proved / all,
        wanted: 'all',
        holds: proved === all,
      },
    ]
  },
}
