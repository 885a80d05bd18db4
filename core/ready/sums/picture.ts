/** What a calculator draws beside its figures; data alone, the page draws it. */
export type SumPicture =
  | {
      /** Amounts side by side, each of its parts, against a limit where there is one. */
      kind: 'bars'
      unit: string
      rows: { label: string; parts: { label: string; value: number }[]; chosen?: boolean }[]
      limit?: { label: string; value: number }
    }
  | {
      /** Values on one line, with the window they should lie in. */
      kind: 'scale'
      unit: string
      marks: { label: string; value: number; limit?: boolean }[]
      window?: { from: number; to: number }
    }
  | {
      /** A course over time with its floor. */
      kind: 'curve'
      xUnit: string
      yUnit: string
      points: { x: number; y: number }[]
      limit: { label: string; value: number }
    }
  | {
      /** A frame's bits, and where the receiver samples, in bit times of the sender. */
      kind: 'bits'
      bits: number
      samples: number[]
    }
  /** A bus with its terminators; null where the ohms are no number of them. */
  | { kind: 'bus'; terminators: number | null }
