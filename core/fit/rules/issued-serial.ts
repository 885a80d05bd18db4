import type { FitRule } from '../question'

/** PRACTICE B8, G4: an image issued for one serial fits that unit and no other. */
export const issuedSerial: FitRule = {
  id: 'issued-serial',
  judge({ family, unit, image: { identity } }) {
    const serial = identity?.serial
    if (serial === undefined) {
      if (!family.updates.issuedPerSerial) return null
      return {
        level: 'stop',
        says: 'The image does not say which unit it was issued for.',
        because: `Each ${family.name} has an image of its own.`,
        remedy: 'Ask the supplier for the image of this serial.',
      }
    }
    if (unit.serial === undefined) {
      return {
        level: 'hold',
        says: 'The unit’s serial is not known.',
        because: `The image was issued for ${serial} alone.`,
        remedy: 'Read the serial from the unit or its label.',
      }
    }
    return unit.serial === serial
      ? {
          level: 'go',
          says: `The image was issued for ${serial}, this unit.`,
          because: 'The serials are equal.',
        }
      : {
          level: 'stop',
          says: `The image was issued for ${serial}; this unit is ${unit.serial}.`,
          because: 'An image of its own in each unit: another’s takes its keys and calibration away.',
          remedy: `Ask the supplier for the image of ${unit.serial}.`,
        }
  },
}
