import type { WiringRule } from '../question'

/** PRACTICE C2: any decent adapter, or the maker's own part; the workshop says. */
export const adapterSchool: WiringRule = {
  id: 'adapter-school',
  judge({ adapter, workshopRules }) {
    if (workshopRules.adapters === 'any') {
      return {
        level: 'go',
        says: 'Any decent adapter may be used.',
        because: 'Workshop rule: try what you have. The record keeps which one it was.',
      }
    }
    return adapter.ownPart
      ? {
          level: 'go',
          says: `${adapter.name} is the maker’s own part.`,
          because: 'Workshop rule: the maker’s own part.',
        }
      : {
          level: 'hold',
          says: `${adapter.name} is not the maker’s own part.`,
          because: 'Workshop rule: the maker’s own part.',
          remedy: 'Take the maker’s own cable, or have somebody answer for this one.',
        }
  },
}
