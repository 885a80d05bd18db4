/** Record types of Intel HEX, by their number (specification, Revision A, clauses 3 to 8). */
export const dataRecord = 0
/** Type 01: end of the file. */
export const endRecord = 1
/** Type 02: extended segment address. */
export const segmentBase = 2
/** Type 03: start by segment and offset. */
export const segmentStart = 3
/** Type 04: extended linear address. */
export const linearBase = 4
/** Type 05: linear start. */
export const linearStart = 5

/** Where a program starts, by a record of type 03 (paragraph and offset) or 05 (linear). */
export interface StartRecord {
  kind: 'segment' | 'linear'
  address: number
}
