import type { DrivenLink } from '../../family'
import type { LoaderAbilities } from '../loader'
import { protocolOf } from './protocols'

/*
 * What the loader of a link can, told before the link is opened: the plan and the gate rest on it. A test holds both
 * against the loaders' own `can`.
 */

/** The memory can be read out before it is written. */
export const linkReads = (link: DrivenLink): boolean => protocolOf(link).can.reads?.(link) ?? true

/** How a link holds what was written against the image; told before it is opened. */
export const linkVerifies = (link: DrivenLink): LoaderAbilities['verify'] => protocolOf(link).can.verify(link)

/** The link can carry the whole image without anything being written: a dry run. */
export const linkRehearses = (link: DrivenLink): boolean => protocolOf(link).can.rehearses?.(link) ?? false

/** Bits that a link reads at once: registers of Modbus, words of the debug port, bytes of the others. */
export const linkWidthBits = (link: DrivenLink): number => protocolOf(link).can.widthBits ?? 8

/** A write that broke off may go on in the middle: a profile or its protocol says so. */
export const linkResumes = (link: DrivenLink): boolean => protocolOf(link).can.resumes?.(link) ?? false

/** Whether erasing is an act of its own, or the unit's own affair while it is written. */
export const erasesFirst = (link: DrivenLink): boolean => protocolOf(link).can.erasesFirst?.(link) ?? true

/** Whether the unit keeps fault codes that this link reads (ISO 14229-1, service 19; ISO 14230-3, service 18). */
export const keepsFaults = (link: DrivenLink): boolean => protocolOf(link).can.keepsFaults ?? false

/** Whether a chip stands there by itself and says what it is: one that holds nothing is blank, and not missing. */
export const readsChip = (link: DrivenLink): boolean => protocolOf(link).can.readsChip ?? false

/** Whether what is written may hold more than its firmware, and is read whole before (PRACTICE G1). */
export const readsWhole = (link: DrivenLink): boolean => protocolOf(link).can.readsWhole ?? false

/** Whether the whole memory goes with every erase. */
export const erasesWhole = (link: DrivenLink): boolean => protocolOf(link).can.erasesWhole ?? false

/** What is spoken on a link and how fast, as a sentence says it. */
export const speechText = (link: DrivenLink): string => protocolOf(link).says(link)
