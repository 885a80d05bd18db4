import type { FitRule } from '../question'

/** RFC 9124, section 3.2 (from memory), monotonic sequence number: a lower one is an old manifest played again. */
export const sequenceNumber: FitRule = {
  id: 'sequence-number',
  judge({ component, unit, image: { identity } }) {
    const [wanted, present] = [identity?.sequence, unit.sequences?.[component.id]]
    if (wanted === undefined || present === undefined) return null
    const numbers = { imageSequence: wanted, unitSequence: present }
    return wanted > present
      ? {
          level: 'go',
          says: `Sequence number ${wanted} follows ${present}.`,
          because: 'It has to rise.',
          numbers,
        }
      : {
          level: component.version.downgrade === 'allowed' ? 'hold' : 'stop',
          says: `Sequence number ${wanted} does not follow ${present}.`,
          because: 'A unit takes no image whose number is not above its own.',
          remedy: 'Choose a newer image.',
          numbers,
        }
  },
}
