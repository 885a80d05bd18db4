import type { Family } from '../../family'

/** The faults that can be practised, as the trade fears them (PRACTICE H6, H7, F1 to F4, D1, G5; common practice). */
export const faultKinds = [
  'cut-at-60',
  'swapped-pair',
  'sag',
  'second-unit',
  'wrong-variant',
  'missed-window',
  'bad-backup',
] as const
export type FaultKind = (typeof faultKinds)[number]

/** One thing one could do in a fault drill. */
export interface DrillMove {
  id: string
  says: string
  /** `unsafe` could break the unit or hurt somebody; `wrong` leads nowhere. Moves of the right order have neither. */
  harm?: 'unsafe' | 'wrong'
  /** What comes of it. */
  then: string
}

/** A fault on one kind of equipment, told from its profile, and the right moves in their order. */
export interface FaultDrill {
  /** Kind and family: `sag-fog-signal`. */
  id: string
  kind: FaultKind
  familyId: string
  /** The link and the component it is played on. */
  linkId: string
  componentId: string
  name: string
  situation: string
  moves: readonly DrillMove[]
  /** The right moves in order, by id. */
  order: readonly string[]
}

/** What a kind of drill makes of a profile: its texts and moves; null where the profile has nothing that could go wrong so. */
export type DrillOf = (
  family: Family,
) => Pick<FaultDrill, 'linkId' | 'componentId' | 'name' | 'situation' | 'moves' | 'order'> | null

/**
 * A move of a drill.
 * @param then what comes of it.
 * @param harm what it would have harmed.
 */
export const move = (id: string, says: string, then: string, harm?: DrillMove['harm']): DrillMove => ({
  id,
  says,
  then,
  ...(harm ? { harm } : {}),
})
