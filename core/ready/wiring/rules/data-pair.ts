import { pinText, type WiringRule } from '../question'

const other: Partial<Record<string, string>> = {
  'data-a': 'data-b',
  'data-b': 'data-a',
  'can-high': 'can-low',
  'can-low': 'can-high',
}

/** The two wires of a bus are not alike: A to A and B to B, high to high and low to low. */
export const dataPair: WiringRule = {
  id: 'data-pair',
  judge({ pairs }) {
    const bus = pairs.filter(({ adapter, target }) => other[adapter.role] && other[target.role])
    const swapped = bus.find(({ adapter, target }) => other[adapter.role] === target.role)
    if (swapped) {
      return {
        level: 'stop',
        says: `The data pair is swapped: ${pinText(swapped.adapter)} is on ${pinText(swapped.target)}.`,
        because: 'Every bit is then the other one. It harms nothing and nothing answers.',
        remedy:
          'Swap the two wires. Some manuals call A what others call B: if the right way is silent, try the other.',
      }
    }
    return bus.filter(({ adapter, target }) => adapter.role === target.role).length === 2
      ? { level: 'go', says: 'The data pair is the right way round.', because: 'Each wire is on its own.' }
      : null
  },
}
