import type { WiringRule } from '../question'

/** PRACTICE C1: a modular jack has its own pinout per maker. */
export const jackPinout: WiringRule = {
  id: 'jack-pinout',
  judge({ adapter, wiring }) {
    if (wiring.jack === undefined || adapter.jack === undefined) return null
    return adapter.jack === wiring.jack
      ? { level: 'go', says: `The plug has pinout ${wiring.jack}.`, because: wiring.connector }
      : {
          level: 'stop',
          says: `The plug has pinout ${adapter.jack}; the jack has ${wiring.jack}.`,
          because: 'They fit into each other, and their wires do not belong together.',
          remedy: `Take a cable with pinout ${wiring.jack}, or loose wires joined by the drawing.`,
        }
  },
}
