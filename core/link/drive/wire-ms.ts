import type { Component, DrivenLink } from '../../family'
import { protocolOf } from './protocols'

/**
 * What a link itself needs to carry an image, ms, by its own arithmetic and without the unit's memory: blocks and answers
 * (XMODEM), requests and echoes with their silences (Modbus), segments and their answers (ISO-TP), packets (CMSIS-DAP).
 */
export const linkWireMs = (link: DrivenLink, bytes: number): number =>
  protocolOf(link).times.writeMs(link, bytes)

/** What erasing a stretch takes where the link chooses the blocks itself, ms; null where the memory's sectors tell it. */
export const linkEraseMs = (
  link: DrivenLink,
  component: Component,
  range: { address: number; length: number },
): number | null => protocolOf(link).times.eraseMs?.(link, component, range) ?? null

/** What a link itself needs to give out so many bytes, ms: the way of a write, or its own way of reading. */
export function linkReadWireMs(link: DrivenLink, bytes: number): number {
  const { times } = protocolOf(link)
  return times.readMs ? times.readMs(link, bytes) : times.writeMs(link, bytes)
}

/**
 * What writing takes over a link, ms.
 * @param programMs what the unit's memory needs; over the debug port it works while the next words are on their way.
 */
export function linkWriteMs(link: DrivenLink, bytes: number, programMs: number): number {
  const { times } = protocolOf(link)
  const wire = times.writeMs(link, bytes)
  return times.programsMeanwhile?.(link) ? Math.max(wire, programMs) : wire + programMs
}

/**
 * What a unit needs after the last byte that it acknowledged, ms.
 * @param bytes that are written.
 * @param programMs what its memory needs for them.
 */
export const linkTailMs = (link: DrivenLink, bytes: number, programMs: number): number =>
  protocolOf(link).times.tailMs?.(link, bytes, programMs) ?? 0

/** What reading a page takes over a link, ms, with the unit's thinking. */
export const linkPageMs = (link: DrivenLink): number => protocolOf(link).times.pageMs(link)

/** Time to show what a log takes from it once, ms. */
export const linkLiveMs = (link: DrivenLink): number => {
  const { liveMs, pageMs } = protocolOf(link).times
  return (liveMs ?? pageMs)(link)
}
