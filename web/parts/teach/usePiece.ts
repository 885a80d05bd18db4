import type { TeachDraft } from '@bench-wake/core/family'
import { computed } from 'vue'
import type { Teach } from './useTeach'

/** What stands in the fields of a piece before anything of it is known. */
const empty = {
  memory: { address: '', length: '', sectorBytes: 4096 },
  entry: { how: 'hand', does: '', settleMs: 1000 },
  attach: { sends: '', by: 'prompt', text: '' },
  erase: { sends: '', progress: '', withinMs: 30_000 },
  write: { sends: '', announces: '', by: 'xmodem-1k', then: '', pieceBytes: null },
  check: { sends: '', answers: '{sum:hex8}', checksum: 'crc32' },
  read: { sends: '', line: '{at:hex8}: {row:bytes}' },
  start: { sends: '' },
  power: { nominalVolts: 12, floorVolts: 11.5, ceilingVolts: 15 },
} satisfies Partial<TeachDraft>
type Optional = keyof typeof empty

/** The piece that is asked about, as its fields read and write it. */
export function usePiece(teach: Teach) {
  const draft = computed(() => teach.draft.value)
  const piece = computed(() => teach.piece.value)
  /** A piece as it stands, or empty. */
  const of = <K extends Optional>(key: K): NonNullable<TeachDraft[K]> =>
    (draft.value[key] ?? empty[key]) as NonNullable<TeachDraft[K]>
  const set = <K extends Optional>(key: K, part: Partial<NonNullable<TeachDraft[K]>>) =>
    teach.change({ [key]: { ...of(key), ...part } } as Partial<TeachDraft>)
  return { draft, piece, of, set }
}
