import { pinText, type WiringRule } from '../question'

/** PRACTICE D6: exactly one supply. Two destroy a small receiver; none answers nothing. */
export const oneSupply: WiringRule = {
  id: 'one-supply',
  judge({ wiring, say, pairs }) {
    const joined = pairs.find(({ adapter, target }) => adapter.role === 'supply' && target.role === 'supply')
    const feeding = joined !== undefined && say.feeding === true
    const own = say.unitFed ?? null
    if (joined && own === true) {
      return feeding
        ? {
            level: 'stop',
            says: 'Two supplies feed the unit: its own, and the adapter.',
            because: `The adapter’s ${pinText(joined.adapter)} is joined and on. Two supplies destroy a small unit.`,
            remedy:
              'Take one away: leave the adapter’s supply pin open, or switch the unit’s own supply off.',
          }
        : {
            level: 'stop',
            says: `The adapter’s ${pinText(joined.adapter)} is joined while the unit runs from its own supply.`,
            because:
              say.feeding === false
                ? 'Even switched off it is fed backwards through that wire, and one slip of its switch makes two supplies.'
                : 'Nobody said that the adapter gives none. Two supplies destroy a small unit.',
            remedy: 'Take that wire off: the adapter’s supply pin stays open.',
          }
    }
    if (wiring.fed === 'adapter' && own === true) {
      return {
        level: 'stop',
        says: 'The unit’s own supply is on; here the adapter feeds it.',
        because: `${wiring.connector}: exactly one supply, and it is the adapter.`,
        remedy: 'Take the unit’s own supply off and prove it dead before the adapter is joined.',
      }
    }
    if (wiring.fed === 'own' && feeding) {
      return {
        level: 'stop',
        says: 'The adapter feeds the unit; it has to run from its own supply.',
        because: `The adapter’s ${pinText(joined.adapter)} is joined and on.`,
        remedy: 'Leave the adapter’s supply pin open; the unit’s own supply feeds it.',
      }
    }
    if (wiring.fed === 'own') {
      if (own === true)
        return {
          level: 'go',
          says: 'The unit runs from its own supply, and from nothing else.',
          because: wiring.connector,
        }
    } else if (feeding && own === false) {
      return {
        level: 'go',
        says: 'The adapter feeds the unit, and nothing else does.',
        because: wiring.connector,
      }
    } else if (wiring.fed === 'either' && own === true && !feeding) {
      return {
        level: 'go',
        says: 'The unit runs from its own supply, and from nothing else.',
        because: wiring.connector,
      }
    }
    if (joined && own === false && say.feeding === undefined) {
      return {
        level: 'hold',
        says: 'Nobody said whether the adapter gives supply.',
        because: `Its ${pinText(joined.adapter)} is joined, and the unit’s own supply is off.`,
        remedy: 'Look at the adapter’s supply switch, and say so here.',
      }
    }
    if (own === null) {
      return {
        level: 'hold',
        says: 'Nobody said what feeds the unit.',
        because: 'Exactly one supply: its own, or the adapter.',
        remedy:
          wiring.fed === 'adapter'
            ? 'Take every other supply off, and say so here.'
            : 'Look whether its own supply is on, and say so here.',
      }
    }
    return {
      level: 'hold',
      says: 'Nothing feeds the unit.',
      because: 'Its own supply is off, and the adapter gives none.',
      remedy:
        wiring.fed === 'own'
          ? 'Join its own supply: cells in, battery or plug joined.'
          : 'Join the adapter’s supply pin and switch it on.',
    }
  },
}
