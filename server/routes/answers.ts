import type { MatrixReason } from '@bench-wake/core/fit'
import type { SettledRequest } from '../store/arrivals'
import type { ShelfImage } from '../store/load-shelf'
import type { ShelfBundle } from '../store/shelf'

/** What adding a file answers: the image, and where the file was an archive all that was in it. */
export interface AddedAnswer extends ShelfImage {
  images: ShelfImage[]
  bundle: ShelfBundle | null
  /** Requests to suppliers that are settled by what came. */
  settled: SettledRequest[]
}

/** Every image against every column; see core/fit/matrix.ts. */
export interface MatrixAnswer {
  columns: { id: string; label: string; familyId: string }[]
  rows: {
    id: string
    name: string
    familyId: string | null
    componentId: string | null
    version: string | null
    release: string | null
  }[]
  reasons: MatrixReason[]
  /** Indices into `reasons`, row after row, 16 bit little endian, base64. */
  cells: string
}
