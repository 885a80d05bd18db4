import { applicationRegions } from '../../family'
import { addressText, bytesText } from '../../kernel'
import type { FitRule } from '../question'

/** RFC 9124, sections 3.10 and 3.14 (from memory), storage location and size: every byte lies where it may be written. */
export const memoryBounds: FitRule = {
  id: 'memory-bounds',
  judge({ component, image: { segments } }) {
    const regions = applicationRegions(component)
    const astray = segments.find(
      ({ address, length }) =>
        !regions.some(
          (region) => region.address <= address && address + length <= region.address + region.length,
        ),
    )
    const size = segments.reduce((sum, { length }) => sum + length, 0)
    const room = regions.reduce((sum, region) => sum + region.length, 0)
    const numbers = { imageBytes: size, roomBytes: room }
    if (!astray) {
      return {
        level: 'go',
        says: `The image lies within the application memory.`,
        because: `${bytesText(size)} in ${bytesText(room)}.`,
        numbers,
      }
    }
    return {
      level: 'stop',
      says:
        size > room
          ? `The image is larger than the memory: ${bytesText(size)} in ${bytesText(room)}.`
          : 'The image lies outside the memory that may be written.',
      because: `It sets ${addressText(astray.address)} to ${addressText(astray.address + astray.length - 1)}; the application is ${regions
        .map(
          (region) => `${addressText(region.address)} to ${addressText(region.address + region.length - 1)}`,
        )
        .join(', ')}.`,
      remedy: 'Take the image for this component, without bootloader and settings.',
      numbers,
    }
  },
}
