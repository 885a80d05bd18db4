/** A column of a list: what stands in it comes from the slot with its key. */
export interface ListColumn<Row> {
  key: string
  title: string
  width?: number | string
  /** What rows are sorted by; the head sorts by nothing where it is left out. Null for what is not known. */
  sort?: (row: Row) => string | number | null
  /** What a filter finds in it beside that. */
  text?: (row: Row) => string
}
