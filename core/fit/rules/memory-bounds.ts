import { applicationRegions } from '../../family'
import { addressText, bytesText } from '../../kernel'
import { byteCount, type Segment } from '../../image'
import type { FitRule } from '../question'

/** RFC 9124, storage location and size: every byte of the image lies where the component may be written. */
export const memoryBounds: FitRule = {
  id: 'memory-bounds',
  judge({ component, image: { memory } }) {
    const regions = applicationRegions(component)
    const inside = ({ address, bytes }: Segment) =>
      regions.some(
        (region) => region.address <= address && address + bytes.length <= region.address + region.length,
      )
    const astray = memory.find((segment) => !inside(segment))
    const size = byteCount(memory)
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
    const from = addressText(astray.address)
    const to = addressText(astray.address + astray.bytes.length - 1)
    const hit = component.memory.regions.find(
      (region) =>
        region.use !== 'application' &&
        astray.address < region.address + region.length &&
        region.address < astray.address + astray.bytes.length,
    )
    return {
      level: 'stop',
      says: hit
        ? `The image would write over the ${hit.name.toLowerCase()}.`
        : 'The image lies outside the memory that may be written.',
      because: `It sets ${from} to ${to}; the application is ${regions
        .map(
          (region) => `${addressText(region.address)} to ${addressText(region.address + region.length - 1)}`,
        )
        .join(', ')}.`,
      remedy: 'Take the image for this component, without bootloader and settings.',
      numbers,
    }
  },
}
