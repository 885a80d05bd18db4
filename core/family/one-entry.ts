import type { FamilyLink } from './schema'
import { slotsOf } from './template'

/**
 * True where a bootloader takes images for several components one after the other, since erase and write each name the
 * component they are for (PRACTICE A5).
 */
export const namesComponent = (link: FamilyLink): boolean =>
  link.kind === 'serial'
    ? [link.loader.erase, link.loader.write].every(({ send }) => slotsOf(send).includes('component'))
    : link.drive?.speaks === 'script' &&
      [link.drive.operations.erase, link.drive.operations.write].every((operation) =>
        JSON.stringify(operation ?? null).includes('{component'),
      )
