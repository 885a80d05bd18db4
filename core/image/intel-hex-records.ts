/** Record types of Intel HEX, by their number (specification, Revision A, clauses 3 to 8). */
export const dataRecord = 0
export const endRecord = 1
export const segmentBase = 2
export const segmentStart = 3
export const linearBase = 4
export const linearStart = 5

/** Where a program starts, by a record of type 03 (paragraph and offset) or 05 (linear). */
export interface StartRecord {
  kind: 'segment' | 'linear'
  address: number
}
