import type { Clock } from '../../kernel'
import type { Port } from '../port'

/*
 * Waking a controller on the single-wire line (ISO 14230-2, clause 5.2): fast by a low of 25 ms and as long a high, or
 * by its address at five baud, least significant bit first.
 */

/** Half of the fast pattern, ms; a controller takes 24 to 26 (table 5: TiniL 25 ± 1, TWuP 50 ± 1). */
export const fastHalfMs = 25
/** A bit at five baud, ms. */
export const slowBitMs = 200

/** Pulls the line as the fast pattern has it. */
export async function wakeFast(port: Port, clock: Clock): Promise<void> {
  await port.setLines({ brk: true })
  await clock.sleep(fastHalfMs)
  await port.setLines({ brk: false })
  await clock.sleep(fastHalfMs)
}

/** Sends an address at five baud, with the break of the port: a break is the line's low. */
export async function wakeSlowly(port: Port, clock: Clock, address: number): Promise<void> {
  const bits = [0, ...Array.from({ length: 8 }, (_, bit) => (address >> bit) & 1), 1]
  for (const bit of bits) {
    await port.setLines({ brk: bit === 0 })
    await clock.sleep(slowBitMs)
  }
}

/** A change of the line's level, as the controller sees it. */
export interface Edge {
  low: boolean
  at: number
}

/**
 * What the edges so far mean.
 * @param now time until which the last level has stood, ms.
 * @returns null while nothing whole is there.
 */
export function readWakeUp(edges: readonly Edge[], now: number): 'fast' | { address: number } | null {
  const [fall, rise] = edges
  if (!fall?.low || !rise) return null
  const lowMs = rise.at - fall.at
  if (Math.abs(lowMs - fastHalfMs) <= 1) {
    return edges.length === 2 && now - rise.at >= fastHalfMs - 1 ? 'fast' : null
  }
  if (now - fall.at < 9.5 * slowBitMs) return null
  // Each bit is looked at in its middle.
  const levelAt = (time: number) => edges.filter(({ at }) => at <= time).at(-1)?.low === false
  const bits = Array.from({ length: 10 }, (_, bit) => levelAt(fall.at + (bit + 0.5) * slowBitMs))
  if (bits[0] || !bits[9]) return null
  return { address: bits.slice(1, 9).reduce((value, bit, at) => value | (Number(bit) << at), 0) }
}
