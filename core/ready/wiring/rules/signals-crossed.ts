import { pinText, type WiringRule } from '../question'

/** PRACTICE F1: transmit goes to receive and back. Swapped, nothing breaks and nothing answers. */
export const signalsCrossed: WiringRule = {
  id: 'signals-crossed',
  judge({ pairs }) {
    const same = pairs.filter(
      ({ adapter, target }) =>
        adapter.role === target.role && (adapter.role === 'transmit' || adapter.role === 'receive'),
    )
    const crossed = pairs.filter(
      ({ adapter, target }) =>
        (adapter.role === 'transmit' && target.role === 'receive') ||
        (adapter.role === 'receive' && target.role === 'transmit'),
    )
    if (same.length === 0) {
      return crossed.length === 2
        ? { level: 'go', says: 'Transmit goes to receive, both ways.', because: 'Each end hears the other.' }
        : null
    }
    const { adapter, target } = same[0]!
    return {
      level: 'stop',
      says: `${adapter.role === 'transmit' ? 'Transmit' : 'Receive'} is joined to ${target.role}: ${pinText(adapter)} to ${pinText(target)}.`,
      because: 'Nothing breaks and nothing answers: two ends that speak into each other hear nothing.',
      remedy: 'Swap the two wires.',
    }
  },
}
