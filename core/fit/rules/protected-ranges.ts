import { addressText, inSentence } from '../../kernel'
import type { FitRule } from '../question'

/** RFC 9124, section 3.10 (from memory), storage location: bootloader, settings and reserved memory stay untouched. */
export const protectedRanges: FitRule = {
  id: 'protected-ranges',
  judge({ component, image: { segments } }) {
    const guarded = component.memory.regions.filter(({ use }) => use !== 'application')
    if (guarded.length === 0) return null
    for (const { address, length } of segments) {
      const hit = guarded.find(
        (region) => address < region.address + region.length && region.address < address + length,
      )
      if (!hit) continue
      return {
        level: 'stop',
        says: `The image would write over the ${inSentence(hit.name)}.`,
        because: `It sets ${addressText(address)} to ${addressText(address + length - 1)}; the ${inSentence(hit.name)} is ${addressText(hit.address)} to ${addressText(hit.address + hit.length - 1)}.`,
        remedy: 'Take the image for this component, without bootloader and settings.',
      }
    }
    return {
      level: 'go',
      says: `It leaves ${guarded.map(({ name }) => inSentence(name)).join(' and ')} alone.`,
      because: 'No byte of it lies in a protected range.',
    }
  },
}
