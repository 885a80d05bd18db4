import type { WiringRule } from '../question'

/** Levels are told against ground: without it nothing that is sent means anything. */
export const groundJoined: WiringRule = {
  id: 'ground-joined',
  judge({ wiring, adapter, pairs }) {
    const has = (pins: typeof wiring.pins) => pins.some(({ role }) => role === 'ground')
    if (!has(wiring.pins) || !has(adapter.pins)) return null
    return pairs.some((pair) => pair.adapter.role === 'ground' && pair.target.role === 'ground')
      ? { level: 'go', says: 'Ground is joined.', because: 'Levels are told against it.' }
      : {
          level: 'stop',
          says: 'Ground is not joined.',
          because: 'Levels are told against ground; without it nothing sent means anything.',
          remedy: 'Join ground first, before any signal.',
        }
  },
}
