import type { FitRule } from '../question'

/** RFC 9124, section 3.3 (from memory), vendor identifier: the image comes from the maker of this very board (B6). */
export const vendorIdentifier: FitRule = {
  id: 'vendor-identifier',
  judge({ family, image: { identity } }) {
    const [wanted, found] = [family.hardware.vendorId, identity?.vendorId]
    if (wanted === undefined || found === undefined) return null
    return wanted === found
      ? { level: 'go', says: 'The image is from the maker of this equipment.', because: `Vendor ${found}.` }
      : {
          level: 'stop',
          says: 'The image is from another maker.',
          because: `Its vendor is ${found}, this family’s is ${wanted}.`,
          remedy: 'Take the image from the seller of this very unit.',
        }
  },
}
