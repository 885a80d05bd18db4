import type { DrivenLink } from '../../family'

/*
 * What the loader of a link can, told before the link is opened: the plan and the gate rest on it. A test holds both
 * against the loaders' own `can`.
 */

/** The memory can be read out before it is written. */
export const linkReads = (link: DrivenLink): boolean =>
  link.kind !== 'serial' && (link.drive.speaks !== 'script' || link.drive.operations.read !== undefined)

/** Bits that a link reads at once: registers of Modbus, words of the debug port, bytes of the others. */
export const linkWidthBits = (link: DrivenLink): number =>
  link.kind === 'serial' ? 8 : link.drive.speaks === 'modbus' ? 16 : link.drive.speaks === 'debug' ? 32 : 8

/** A write that broke off may go on in the middle: a profile or its protocol says so. */
export const linkResumes = (link: DrivenLink): boolean =>
  link.kind === 'serial'
    ? (link.loader.resumes ?? false)
    : link.drive.speaks === 'modbus' || (link.drive.speaks === 'script' && (link.drive.resumes ?? false))
