import type { DrivenLink, Speech } from '../../family'
import type { LoaderAbilities } from '../loader'
import { modbusAbilities } from '../modbus'
import { scriptAbilities } from '../script'

/*
 * What the loader of a link can, told before the link is opened: the plan and the gate rest on it. A test holds both
 * against the loaders' own `can`.
 */

/** The memory can be read out before it is written. */
export const linkReads = (link: DrivenLink): boolean =>
  link.drive.speaks === 'script'
    ? link.drive.operations.read !== undefined
    : link.drive.speaks !== 'modbus' || modbusAbilities(link.drive).read

/** Speeches that read every byte back. */
const comparesBytes: ReadonlySet<Speech> = new Set(['dfu', 'debug', 'spi-flash', 'in-system'])
/** How a link holds what was written against the image; told before it is opened. */
export function linkVerifies(link: DrivenLink): LoaderAbilities['verify'] {
  if (link.drive.speaks === 'script') return scriptAbilities(link.drive).verify
  if (link.drive.speaks === 'modbus') return modbusAbilities(link.drive).verify
  return comparesBytes.has(link.drive.speaks) ? 'read-back' : 'checksum'
}

/** The link can carry the whole image without anything being written: a dry run. */
export const linkRehearses = (link: DrivenLink): boolean =>
  link.drive.speaks === 'script' && link.drive.operations.dryRun !== undefined

/** Bits that a link reads at once: registers of Modbus, words of the debug port, bytes of the others. */
export const linkWidthBits = (link: DrivenLink): number =>
  link.drive.speaks === 'modbus' ? 16 : link.drive.speaks === 'debug' ? 32 : 8

/** A write that broke off may go on in the middle: a profile or its protocol says so. */
export const linkResumes = (link: DrivenLink): boolean =>
  link.drive.speaks === 'modbus' || (link.drive.speaks === 'script' && (link.drive.resumes ?? false))
