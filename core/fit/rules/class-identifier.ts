import type { FitRule } from '../question'

/** RFC 9124, section 3.4 (from memory), class identifier: the image is for this class of device. */
export const classIdentifier: FitRule = {
  id: 'class-identifier',
  judge({ family, image: { identity } }) {
    const [wanted, found] = [family.hardware.classId, identity?.classId]
    if (wanted === undefined || found === undefined) return null
    return wanted === found
      ? { level: 'go', says: `The image is for the class ${family.name}.`, because: `Class ${found}.` }
      : {
          level: 'stop',
          says: 'The image is for another class of device.',
          because: `Its class is ${found}, this family’s is ${wanted}.`,
          remedy: `Choose an image for a ${family.name}.`,
        }
  },
}
