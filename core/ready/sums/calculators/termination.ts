import { field, figure, type Sum } from '../sum'
import { busOhms, judgeTermination, terminatorsOf } from '../termination'

/** The calculator of this: its questions, its answer and its picture. */
export const terminationSum: Sum = {
  id: 'termination',
  name: 'Termination of a bus',
  source: '120 ohm at both ends (ISO 11898-2; RS-485 alike): 60 ohm between the wires, unpowered.',
  fields: [field('ohms', 'Measured between the wires', 'ohms', '60 ohm', 0, 1e7)],
  work({ ohms }) {
    const finding = judgeTermination(ohms!)
    return {
      numbers: finding.numbers ?? {},
      says: [{ label: 'As it should be', value: figure(busOhms(2), 'ohm', 0) }],
      picture: { kind: 'bus', terminators: terminatorsOf(ohms!) },
      findings: [finding],
    }
  },
}
