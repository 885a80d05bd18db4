import { pinText, type WiringRule } from '../question'

/** PRACTICE C7, D6: a pin that must stay open stays open. */
export const supplyOpen: WiringRule = {
  id: 'supply-open',
  judge({ wiring, pairs }) {
    const closed = pairs.find(({ target, adapter }) => target.open === true || adapter.open === true)
    if (closed) {
      const pin = closed.target.open ? closed.target : closed.adapter
      return {
        level: 'stop',
        says: `${pinText(pin)} is joined; it must stay open.`,
        because: `${wiring.connector}: only what the link needs is joined.`,
        remedy: 'Take this wire off.',
      }
    }
    const open = wiring.pins.filter(({ open }) => open)
    return open.length
      ? { level: 'go', says: `${open.map(pinText).join(', ')} stays open.`, because: wiring.connector }
      : null
  },
}
