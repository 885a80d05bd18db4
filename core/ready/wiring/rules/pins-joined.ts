import { isSignal, pinText, type WiringRule } from '../question'

/** Every pin that the link needs is joined to one of its kind; of six lines in a debug port one missing is enough. */
export const pinsJoined: WiringRule = {
  id: 'pins-joined',
  judge({ wiring, say, pairs }) {
    const needed = wiring.pins.filter(
      (pin) => pin.needed && (pin.role !== 'supply' || (wiring.fed === 'adapter' && say.unitFed !== true)),
    )
    const missing = needed.filter(
      ({ id, role }) => role !== 'ground' && !pairs.some(({ target }) => target.id === id),
    )
    if (missing.length === 0) {
      return needed.length
        ? {
            level: 'go',
            says: 'Everything that the link needs is joined.',
            because: needed.map(pinText).join(', '),
          }
        : null
    }
    const loose = missing.filter(isSignal).length
    return {
      level: 'stop',
      says: `${missing.map(pinText).join(', ')} ${missing.length === 1 ? 'is' : 'are'} not joined.`,
      because: loose ? 'Without it the unit hears or says nothing.' : 'The unit is fed through it.',
      remedy: 'Join what is missing, by the drawing.',
      numbers: { missingPins: missing.length },
    }
  },
}
