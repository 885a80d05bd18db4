import type { Family } from '../family'
import type { ImageIdentity } from '../image'
import { hexNumber, type Finding } from '../kernel'

/**
 * What can be said of an image before any unit is named: whose it is, whether it is whole, what to mind.
 * @param otherNames names under which the same bytes already lie on the shelf.
 */
export function judgeImage(
  identity: ImageIdentity | null,
  families: readonly Family[],
  otherNames: readonly string[] = [],
): Finding[] {
  const findings: Finding[] = []
  const family = families.find((each) => each.id === identity?.familyId)
  if (!identity || !family) {
    findings.push({
      rule: 'image-known',
      level: 'hold',
      says: 'No family profile knows this image.',
      because: 'None finds its identity block in the bytes.',
      remedy: 'Load the profile of the equipment it is for.',
    })
  } else {
    const component = family.components.find((each) => each.id === identity.componentId)
    findings.push({
      rule: 'image-known',
      level: 'go',
      says: `${component?.name ?? identity.componentId} of a ${family.name}, hardware ${identity.hardwareMajor ?? 'not known'}.`,
      because: 'Read from the identity block, not from the file name.',
    })
  }
  // PRACTICE B6: one design under many labels; a look-alike carries another device identifier.
  const device = identity?.deviceIdentifier
  if (family && device !== undefined && device !== family.hardware.deviceIdentifier) {
    findings.push({
      rule: 'look-alike',
      level: 'hold',
      says: `It is for ${device}, not for ${family.hardware.deviceIdentifier}.`,
      because: `Its identity block has this family’s form, but another device identifier.`,
      remedy: 'Keep it for the unit it is for; it fits no unit of this family.',
    })
  }
  if (identity?.intact && !identity.intact.ok) {
    const { expected, found } = identity.intact
    findings.push({
      rule: 'image-intact',
      level: 'stop',
      says: 'The image is damaged: its own checksum does not hold.',
      because: `CRC-32 in the image ${hexNumber(expected, 8)}, over its bytes ${hexNumber(found, 8)}.`,
      remedy: 'Fetch it again from where it came.',
    })
  }
  // PRACTICE B4: the default is the newest production release; a test release is flagged.
  if (identity?.release && identity.release !== 'production') {
    findings.push({
      rule: 'test-release',
      level: 'note',
      says: `This is a ${identity.release} release.`,
      because: 'Its identity block says so.',
      remedy: 'Take the newest production release unless you were asked to try this one.',
    })
  }
  // PRACTICE B2: two downloads of one image.
  if (otherNames.length > 0) {
    findings.push({
      rule: 'same-bytes',
      level: 'note',
      says: `The same image as ${otherNames.join(', ')}.`,
      because: 'Equal bytes at equal addresses; only the name differs.',
    })
  }
  return findings
}
