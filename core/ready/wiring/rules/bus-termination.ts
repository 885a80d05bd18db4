import { judgeTermination, terminatorOhms } from '../../sums/termination'
import type { WiringRule } from '../question'

/** 120 ohm at both ends of the bus, 60 ohm between its wires (ISO 11898-2; RS-485 alike). */
export const busTermination: WiringRule = {
  id: 'bus-termination',
  judge({ wiring, adapter, say }) {
    if (!wiring.terminated) return null
    if (typeof say.ohms === 'number') {
      const { rule: _rule, ...found } = judgeTermination(say.ohms)
      return found
    }
    return {
      level: 'hold',
      says: 'The bus is not measured.',
      because: `${terminatorOhms} ohm at both ends give 60 ohm between the wires. ${adapter.terminator ? 'The adapter carries one of them.' : 'The adapter carries none.'}`,
      remedy: 'Unpowered, measure between the two wires, and type the ohms.',
    }
  },
}
