import type { FamilyLink } from './schema'

/**
 * True where a bootloader takes images for several components one after the other, since erase and write each name the
 * component they are for (PRACTICE A5).
 */
export const namesComponent = ({ drive }: FamilyLink): boolean =>
  drive?.speaks === 'script' &&
  [drive.operations.erase, drive.operations.write].every((operation) =>
    JSON.stringify(operation ?? null).includes('{component'),
  )
