import type { Finding } from '../../kernel'
import { howTold, toldByWords, type ImageIdentity } from '../../image'
import type { FitQuestion, FitRule } from '../question'

/** PRACTICE A3, B1: an image fits one hardware major revision only. */
export const hardwareMajor: FitRule = {
  id: 'hardware-major',
  judge(question) {
    const finding = judgeMajor(question)
    const { identity } = question.image
    const told = identity?.hardwareMajor === undefined ? 'block' : howTold(identity, 'hardwareMajor')
    if (finding.level !== 'go' || told === 'block') return finding
    const because = `${finding.because} Of the image ${toldByWords[told]} tells it.`
    // Where the image itself stands on that person’s word, that is held already.
    if (told !== 'person' || howTold(identity!) === 'person') return { ...finding, because }
    return {
      ...finding,
      level: 'hold',
      says: `${identity!.statement?.by ?? 'Somebody'} says that the image is for hardware ${identity!.hardwareMajor}. Nothing else does.`,
      because,
      remedy: 'Ask the supplier which hardware the image is for, or release it by name.',
    }
  },
}

/** What the image is for: as it says, or the one revision that there is. */
const majorOf = (identity: ImageIdentity | null, { family }: FitQuestion): number | undefined =>
  identity?.hardwareMajor ??
  (family.hardware.revisions.length === 1 ? family.hardware.revisions[0]!.major : undefined)

function judgeMajor(question: FitQuestion): Omit<Finding, 'rule'> {
  const {
    family,
    component,
    unit,
    image: { identity },
  } = question
  const carries = component.identity?.fields.some(({ field }) => field === 'hardwareMajor')
  const byBlock = identity === null || howTold(identity) === 'block'
  const wanted = carries && byBlock ? identity?.hardwareMajor : majorOf(identity, question)
  if (wanted === undefined && !(carries && byBlock)) {
    return {
      level: 'hold',
      says: 'Nobody says which hardware the image is for.',
      because: `${family.name} has ${family.hardware.revisions.length} hardware revisions, and an image of one can destroy another.`,
      remedy: 'Ask the supplier, then write it down on the image’s page or in the profile’s releases.',
    }
  }
  if (wanted === undefined) {
    return {
      level: 'stop',
      says: 'The image does not say which hardware it is for.',
      because: 'Its identity block has no hardware major revision.',
      remedy: 'Ask the supplier which hardware the image is for.',
    }
  }
  const numbers = { imageMajor: wanted }
  if (unit.contradiction !== undefined) {
    return {
      level: 'stop',
      says: 'The unit’s signs tell different hardware.',
      because: `${unit.contradiction}.`,
      remedy: 'Open the case and read the processor’s marking; until then write nothing.',
      numbers,
    }
  }
  if (unit.unknownSign !== undefined) {
    return {
      level: 'stop',
      says: `The unit is of a hardware line that this profile does not know.`,
      because: `${unit.unknownSign}; known: ${family.hardware.revisions.map((revision) => revision.name).join(', ')}.`,
      remedy: 'Do not write any of these images. Ask the supplier about this hardware.',
      numbers,
    }
  }
  if (unit.hardwareMajor === undefined) {
    const how = family.hardware.revisions.map(({ identifiedBy }) => identifiedBy.says).join(' ')
    return {
      level: 'hold',
      says: 'The unit’s hardware revision is not known.',
      because: `The image is for hardware ${wanted}.`,
      remedy: `Read the unit. ${how}`,
      numbers,
    }
  }
  const has = unit.hardwareMajor
  if (!family.hardware.revisions.some((revision) => revision.major === has)) {
    return {
      level: 'stop',
      says: `Hardware ${unit.hardware ?? has} is not in this family’s profile.`,
      because: `Known majors: ${family.hardware.revisions.map((revision) => revision.major).join(', ')}.`,
      remedy: 'Do not write any of these images. Ask the supplier about this hardware.',
      numbers: { ...numbers, unitMajor: has },
    }
  }
  // Nothing says it of the image: that there is one revision only is the profile's word, and no more than a note.
  if (has === wanted && identity?.hardwareMajor === undefined) {
    return {
      level: 'note',
      says: `The unit is of hardware ${has}, the only one that this profile knows.`,
      because: 'Nothing tells which hardware the image is for.',
      remedy: 'Where there is other hardware of this equipment, add it to the profile first.',
      numbers: { ...numbers, unitMajor: has },
    }
  }
  return has === wanted
    ? {
        level: 'go',
        says: `The image is for hardware ${wanted}, and so is the unit.`,
        because: `The unit reads ${unit.hardware ?? has}.`,
        numbers: { ...numbers, unitMajor: has },
      }
    : {
        level: 'stop',
        says: `The image is for hardware ${wanted}; this unit is ${named(unit.hardware ?? String(has))}.`,
        because: 'The hardware majors differ: the image of one line destroys the other.',
        remedy: `Choose an image for hardware ${has}.`,
        numbers: { ...numbers, unitMajor: has },
      }
}

/** A bare number is called hardware; a revision that the profile names keeps its name. */
const named = (hardware: string) => (/^\d/.test(hardware) ? `hardware ${hardware}` : hardware)
