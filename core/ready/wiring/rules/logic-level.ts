import { isLogic, type WiringRule } from '../question'

/** PRACTICE D7: 3.3 V boards die on 5 V; the adapter's switch is checked. */
export const logicLevel: WiringRule = {
  id: 'logic-level',
  judge({ adapter, wiring, say, pairs }) {
    const signals = pairs.filter(({ adapter: at, target }) => isLogic(at) && isLogic(target))
    const bears = signals.flatMap(({ target }) => (target.volts === undefined ? [] : [target.volts]))
    if (bears.length === 0 || adapter.levels.length === 0) return null
    const most = Math.min(...bears)
    const level = adapter.levels.length === 1 ? adapter.levels[0]! : (say.level ?? null)
    if (level === null) {
      return {
        level: 'hold',
        says: 'Nobody looked at the adapter’s level switch.',
        because: `It offers ${adapter.levels.join(' V and ')} V; ${wiring.connector} bears ${most} V.`,
        remedy: `Look at the switch, set it to ${most} V, and say so here.`,
      }
    }
    const numbers = { adapterVolts: level, targetVolts: most }
    // A tenth above: supplies of 3.3 V and 5 V parts stand within that (common practice).
    if (level > most * 1.1) {
      return {
        level: 'stop',
        says: `The adapter drives ${level} V into a ${most} V part.`,
        because: `A ${most} V board dies on ${level} V.`,
        remedy:
          adapter.levels.length > 1
            ? `Set its switch to ${most} V before anything is joined.`
            : `Take an adapter for ${most} V.`,
        numbers,
      }
    }
    return level < most * 0.6
      ? {
          level: 'hold',
          says: `The adapter drives only ${level} V; the part wants ${most} V.`,
          because: 'A level below six tenths may not be seen as high.',
          remedy: `Take an adapter for ${most} V.`,
          numbers,
        }
      : {
          level: 'go',
          says: `Both ends stand at ${most} V.`,
          because: `The adapter drives ${level} V.`,
          numbers,
        }
  },
}
