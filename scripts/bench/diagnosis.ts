import { plantFaults } from '../../core/entry/planted.test-support'
import type { Bench } from './figure'

/** Eight planted faults, each on many benches whose answers come by chance: questions asked, and how often it is named. */
export const diagnosis: Bench = {
  name: 'diagnosis',
  async measure() {
    const { questions, named, asked } = plantFaults(500, 0.05)
    return [
      {
        name: `Questions to a person until the cause stands out, ${asked} benches`,
        value: questions,
        unit: 'questions',
        reference: 4,
        ratio: questions / 4,
        wanted: 'no more than 4',
        holds: questions <= 4,
      },
      { name: 'Planted cause named', value: named * 100, unit: '%' },
    ]
  },
}
