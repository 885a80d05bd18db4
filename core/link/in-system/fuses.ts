import type { DriveOf } from '../../family'
import { hexText } from '../../kernel'

type InSystem = DriveOf<'in-system'>
/** A fuse byte as a profile describes it. */
export type Fuse = NonNullable<InSystem['fuses']>[number]

/** A fuse byte as a job wants it. */
export interface WantedFuse {
  id: string
  value: number
}

/** One bit of a fuse byte that changes. */
export interface FuseChange {
  fuse: Fuse
  bit: number
  from: 0 | 1
  to: 0 | 1
  name: string
  /** What the unit does from then on. */
  says: string
  /** The port itself is shut by it: nobody gets in this way again. */
  locksOut: boolean
}

const bitOf = (value: number, bit: number): 0 | 1 => ((value >> bit) & 1) as 0 | 1

/** Bits that differ from what a fuse byte holds, highest first; a bit without a name counts as one that must not change. */
export function fuseChanges(fuse: Fuse, now: number, wanted: number): FuseChange[] {
  return [7, 6, 5, 4, 3, 2, 1, 0].flatMap((bit): FuseChange[] => {
    const [from, to] = [bitOf(now, bit), bitOf(wanted, bit)]
    if (from === to) return []
    const named = fuse.bits.find((each) => each.bit === bit)
    return [
      {
        fuse,
        bit,
        from,
        to,
        name: named?.name ?? `bit ${bit}`,
        says: (to === 1 ? named?.set : named?.clear) ?? 'The profile does not say what this bit does',
        // What nobody describes may shut the port as well.
        locksOut: !named || named.locksOutAt === to,
      },
    ]
  })
}

/** A fuse byte to a person: "High 0xD9". */
export const fuseText = ({ name }: Pick<Fuse, 'name'>, value: number): string => `${name} ${hexText(value)}`

/** What a job wants the fuse bytes to be: what a person said, else what the profile says; nothing of the others. */
export function wantedFuses({ fuses = [] }: InSystem, said: readonly WantedFuse[]): WantedFuse[] {
  return fuses.flatMap(({ id, wanted }): WantedFuse[] => {
    const own = said.find((each) => each.id === id)
    if (own) return [own]
    return wanted === undefined ? [] : [{ id, value: parseInt(wanted, 16) }]
  })
}
