import type { WiringRule } from '../question'

/** PRACTICE C2: poor adapters cause failures that look like something else. */
export const adapterStanding: WiringRule = {
  id: 'adapter-standing',
  judge({ adapter: { name, standing, standingWhy } }) {
    if (standing === 'bad') {
      return {
        level: 'stop',
        says: `${name} is known bad.`,
        because: standingWhy ?? 'It is marked so in the library.',
        remedy: 'Take another one; this one belongs in the bin.',
      }
    }
    return standing === 'untried'
      ? {
          level: 'note',
          says: `${name} was never used for a write.`,
          because: 'Poor adapters cause failures that look like something else.',
          remedy: 'If the write fails, try another adapter before you look elsewhere.',
        }
      : { level: 'go', says: `${name} is known good.`, because: standingWhy ?? 'Marked so in the library.' }
  },
}
