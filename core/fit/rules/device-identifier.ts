import { howTold, toldByWords } from '../../image'
import type { FitRule } from '../question'

/** PRACTICE B1, B6: unit and image carry the same device identifier. */
export const deviceIdentifier: FitRule = {
  id: 'device-identifier',
  judge({ family, component, unit, image: { identity } }) {
    const carries = component.identity?.fields.some(({ field }) => field === 'deviceIdentifier')
    const byBlock = identity === null || howTold(identity) === 'block'
    // Where images carry none, what tells whose the image is ties it to the family’s device.
    const image =
      identity?.deviceIdentifier ?? (carries && byBlock ? undefined : family.hardware.deviceIdentifier)
    if (image === undefined) {
      return {
        level: 'stop',
        says: 'The image carries no device identifier.',
        because: `An image for this family carries ${family.hardware.deviceIdentifier}.`,
        remedy: 'Ask the supplier for the image of this device.',
      }
    }
    if (unit.deviceIdentifier === undefined) {
      return {
        level: 'hold',
        says: 'The unit’s device identifier is not known.',
        because: `The image is for ${image}; the unit has not been read.`,
        remedy: 'Read the unit.',
      }
    }
    return unit.deviceIdentifier === image
      ? {
          level: 'go',
          says: `Unit and image are both ${image}.`,
          because:
            identity?.deviceIdentifier === undefined
              ? `The unit says so; of the image ${toldByWords[identity ? howTold(identity) : 'block']} does.`
              : 'Device identifiers are equal.',
        }
      : {
          level: 'stop',
          says: `The image is for ${image}; this unit is ${unit.deviceIdentifier}.`,
          because: 'The device identifiers differ. The same case is no proof of the same board.',
          remedy: `Choose an image for ${unit.deviceIdentifier}.`,
        }
  },
}
