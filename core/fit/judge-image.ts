import type { Family } from '../family'
import {
  disagreements,
  howTold,
  knownWords,
  type ImageIdentity,
  type ManifestClaim,
  type ReadImage,
} from '../image'
import { hexNumber, type Finding } from '../kernel'
import { contradicted, waysAgree } from './rules/ways-agree'

/** What lies around an image on the shelf. */
export interface ShelfNeighbours {
  /** Names under which the same bytes already lie there. */
  otherNames?: readonly string[]
  /** Names of images with other bytes that say the same of themselves: family, component, hardware, version. */
  sameVersion?: readonly string[]
  /** Names of images that had the same file name before a "(1)" was put after it. */
  twins?: readonly string[]
  placed?: ReadImage['placed']
  claim?: ManifestClaim | null
}

/** What can be said of an image before any unit is named: whose it is, whether it is whole, what to mind. */
export function judgeImage(
  identity: ImageIdentity | null,
  families: readonly Family[],
  { otherNames = [], sameVersion = [], twins = [], placed, claim }: ShelfNeighbours = {},
): Finding[] {
  const findings: Finding[] = []
  const family = families.find((each) => each.id === identity?.familyId)
  if (!identity || !family) {
    findings.push({
      rule: 'image-known',
      level: 'hold',
      says: 'No family profile knows this image.',
      because:
        'None finds an identity block or a text of its own in the bytes, or their digest among its releases.',
      remedy: 'Load the profile of the equipment it is for, or say what it is and where you know it from.',
    })
  } else {
    const component = family.components.find((each) => each.id === identity.componentId)
    findings.push({
      rule: 'image-known',
      level: howTold(identity) === 'person' ? 'hold' : 'go',
      says: `${component?.name ?? identity.componentId} of a ${family.name}, hardware ${identity.hardwareMajor ?? 'not known'}.`,
      because: knownWords(identity),
      ...(howTold(identity) === 'person'
        ? { remedy: 'Compare its digest with the supplier’s, and enter it in the profile’s releases.' }
        : {}),
    })
    if (identity.contradictions)
      findings.push({ rule: waysAgree.id, ...contradicted(identity.contradictions) })
  }
  if (identity?.serial !== undefined) {
    findings.push({
      rule: 'issued-serial',
      level: 'note',
      says: `Issued for ${identity.serial} alone.`,
      because: 'Its identity block names the serial.',
      remedy: 'It fits no other unit.',
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
  if (twins.length > 0) {
    findings.push({
      rule: 'twin-name',
      level: 'note',
      says: `Not the same as ${twins.join(', ')}, though the names are.`,
      because: 'A second download got a number after its name; the bytes differ.',
      remedy: 'Go by version and digest, not by the name.',
    })
  }
  if (sameVersion.length > 0) {
    findings.push({
      rule: 'same-version',
      level: 'hold',
      says: `${sameVersion.join(', ')} says the same version and holds other bytes.`,
      because: 'Same family, component, hardware, variant and version, but another digest.',
      remedy: 'Ask the supplier which of the two is the release.',
    })
  }
  if (placed === 'not-known') {
    findings.push({
      rule: 'address',
      level: 'hold',
      says: 'Nobody knows at which address it belongs.',
      because: 'A plain binary carries none, and no profile knows its bytes.',
      remedy: 'Say the address when you drop it, or take the image as Intel HEX.',
    })
  }
  if (identity && claim) {
    const different = disagreements(identity, claim)
    if (different.length > 0) {
      findings.push({
        rule: 'manifest-agrees',
        level: 'stop',
        says: 'The manifest that came with it speaks of another image.',
        because: `${different.join('; ')}.`,
        remedy: 'Fetch the bundle again from where it came.',
      })
    }
  }
  return findings
}
