import type { WiringRule } from '../question'

/** PRACTICE F3: a wire held in a hole by tilting it fails in the middle of a write. */
export const firmContact: WiringRule = {
  id: 'firm-contact',
  judge({ say }) {
    return say.contact === 'held'
      ? {
          level: 'hold',
          says: 'The wires are held in their holes by hand.',
          because: 'A wire held by tilting it fails in the middle of a write; a soldered header does not.',
          remedy: 'Solder a header or a ribbon cable. Who will flash it again solders it.',
        }
      : null
  },
}
