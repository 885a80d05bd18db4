import type { Component } from '../family'
import type { Finding } from '../kernel'
import { compareVersions } from '../unit'
import { inSequence, type PathQuestion, type ShelfEntry } from './hop'

/** What is missing on the shelf for a way to exist. */
export function whatWouldHelp(
  { family, workshopRules }: PathQuestion,
  component: Component,
  images: readonly ShelfEntry[],
  present: string,
  version: string,
  wantedName: string,
): Finding {
  const { scheme } = component.version
  const wanted = images.find(({ name }) => name === wantedName)?.identity
  const stone = (family.updates.mandatoryVersions ?? []).find(
    (each) =>
      each.component === component.id &&
      compareVersions(scheme, each.version, present) === 'newer' &&
      compareVersions(scheme, each.version, version) === 'older' &&
      !images.some(({ identity }) => compareVersions(scheme, identity!.version!, each.version) === 'same'),
  )
  if (stone) {
    return {
      rule: 'path',
      level: 'stop',
      says: `There is no way from ${present} to ${version} without ${stone.version}.`,
      because: stone.says,
      remedy: `Put the image of ${stone.version} on the shelf.`,
    }
  }
  if (
    wanted?.requiresFrom !== undefined &&
    compareVersions(scheme, present, wanted.requiresFrom) === 'older'
  ) {
    return {
      rule: 'path',
      level: 'stop',
      says: `There is no way from ${present} to ${version}.`,
      because: `${version} goes on ${wanted.requiresFrom} or newer, and no image on the shelf leads there.`,
      remedy: `Put an image on the shelf that takes ${present} to ${wanted.requiresFrom} or newer.`,
    }
  }
  return {
    rule: 'path',
    level: 'stop',
    says: `There is no way from ${present} to ${version} with what is on the shelf.`,
    because: inSequence(family, workshopRules)
      ? 'Every release in between has to be installed, and one of them cannot be put on this unit.'
      : 'No image leads from the one to the other.',
    remedy: 'Ask the supplier how a unit of this version is brought up.',
  }
}
