/** High bytes of a linear congruential generator (Knuth, The Art of Computer Programming 2, 3.2.1; constants from memory). */
export function noise(length: number, seed = 1): Uint8Array {
  let state = seed
  return Uint8Array.from({ length }, () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0
    return state >>> 24
  })
}
