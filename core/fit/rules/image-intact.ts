import { hexNumber } from '../../kernel'
import type { FitRule } from '../question'

/** PRACTICE B2: the image's own check over its bytes, where the family has one. */
export const imageIntact: FitRule = {
  id: 'image-intact',
  judge({ image: { name, identity } }) {
    if (!identity?.intact) return null
    const { ok, expected, found } = identity.intact
    const figures = `CRC-32 in the image ${hexNumber(expected, 8)}, over its bytes ${hexNumber(found, 8)}.`
    return ok
      ? { level: 'go', says: 'The image is whole.', because: figures }
      : {
          level: 'stop',
          says: `${name} is damaged: its own checksum does not hold.`,
          because: figures,
          remedy: 'Fetch the image again from where it came.',
        }
  },
}
