import type { WiringRule } from '../question'

/** PRACTICE F5: signal wire faces the label; plugs go fully home. */
export const plugFaces: WiringRule = {
  id: 'plug-faces',
  judge({ wiring, say }) {
    if (!wiring.faces) return null
    return say.faces
      ? { level: 'go', says: 'The plug is turned as it must be and fully home.', because: wiring.faces }
      : {
          level: 'hold',
          says: 'Nobody looked at how the plug is turned.',
          because: wiring.faces,
          remedy: 'Look, push it fully home, and say so here.',
        }
  },
}
