/*
 * Length of a frame on the vehicle bus, by ISO 11898-1: start 1, identifier 11 (29 and two more in the extended format),
 * control 7 or 9, data, CRC 15 with its delimiter, acknowledge 2, end 7; then 3 of rest. Behind five equal bits, from
 * the start bit to the end of the CRC, the sender puts one of the other kind.
 */

/** Bits that may be stuffed: from the start bit to the end of the CRC. */
const stuffable = (dataBytes: number, extended: boolean) => (extended ? 54 : 34) + 8 * dataBytes
/** Bits that are never stuffed: CRC delimiter, acknowledge and its delimiter, end of frame, and the rest between frames. */
const fixedBits = 1 + 2 + 7 + 3

/** Bits of a frame with the rest behind it: without any stuff bit, and with the most there can be. */
export function canFrameBits(dataBytes: number, extended = false): { least: number; most: number } {
  const open = stuffable(dataBytes, extended)
  // The first stuff bit comes behind five bits; each after that needs four more, since it counts itself.
  return { least: open + fixedBits, most: open + Math.floor((open - 1) / 4) + fixedBits }
}

/**
 * Time an image takes in segments over the vehicle bus, ms: one frame with the length, then seven bytes a frame
 * (ISO 15765-2), without rests between frames.
 */
export function segmentedMs(
  bytes: number,
  bitsPerSecond: number,
): { frames: number; leastMs: number; mostMs: number } {
  const frames = bytes <= 7 ? 1 : 1 + Math.ceil((bytes - 6) / 7)
  const { least, most } = canFrameBits(8)
  return {
    frames,
    leastMs: (frames * least * 1000) / bitsPerSecond,
    mostMs: (frames * most * 1000) / bitsPerSecond,
  }
}
