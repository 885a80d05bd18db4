import { drivenLink, type Family } from '@bench-wake/core/family'
import type { Medium } from '@bench-wake/core/image'
import { standInPort } from '@bench-wake/core/link'
import {
  cardUnit,
  memoryBytes,
  standInOf,
  type CardUnit,
  type StandIn,
  type StandInFaults,
} from '@bench-wake/standins'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { standIns } from '../db/schema'
import type { PortRoom } from '../ports/port-room'
import { getFamily, whereMissing } from './families'

type StandInRow = typeof standIns.$inferSelect

/** The row of a stand-in that nothing was written to yet. */
export function newStandInRow(
  unit: Pick<StandInRow, 'id' | 'familyId' | 'name' | 'hardware' | 'serial' | 'lines' | 'linkId' | 'battery'>,
  flash: Uint8Array,
): StandInRow {
  return { ...unit, flash: Buffer.from(flash), usedAh: 0, inBootloader: false }
}

/** The stand-ins on this bench, with the memory they had when they were last used. */
export async function loadStandIns(
  db: Database,
  faults: ReadonlyMap<string, StandInFaults> = new Map(),
): Promise<{ units: Map<string, StandIn>; cards: Map<string, CardUnit> }> {
  const rows = await db.select().from(standIns).orderBy(standIns.name)
  const units = new Map<string, StandIn>()
  const cards = new Map<string, CardUnit>()
  for (const row of rows) {
    // Without its profile nobody knows what it would say; the profile may come back.
    const family = await getFamily(db, row.familyId).catch(whereMissing)
    if (!family) continue
    const made = madeFrom(row, family, faults.get(row.id))
    if (made.unit) units.set(row.id, made.unit)
    if (made.card) cards.set(row.id, made.card)
  }
  return { units, cards }
}

/** A stand-in as its row and its profile say: at a port, or one that takes its files from a card. */
export function madeFrom(
  { id, name, hardware, serial, flash, usedAh, inBootloader, linkId, lines, battery }: StandInRow,
  family: Family,
  faults?: StandInFaults,
): { unit?: StandIn; card?: CardUnit } {
  // A profile that was revised may say that there is more memory, or less.
  const bytes = new Uint8Array(memoryBytes(family)).fill(0xff)
  bytes.set(new Uint8Array(flash).subarray(0, bytes.length))
  const state = { flash: bytes, usedAh, inBootloader, lines }
  const form = { id, name, family, hardware, serial, state, ...(battery && { battery }) }
  const medium = mediumOf(family)
  // The link it stood on may be gone.
  const link = drivenLink(family, linkId ?? undefined) ?? drivenLink(family)
  if (link) return { unit: standInOf({ ...form, ...(faults && { faults }) }, link.id) }
  return medium ? { card: cardUnit({ ...form, medium }) } : {}
}

/**
 * Stand-ins of a family whose profile was revised speak by the new one, with the memory they have. One that is at work is
 * left; it is made anew at the next start.
 */
export async function renewStandIns(
  db: Database,
  { ports, cards, holds }: Pick<PortRoom, 'ports' | 'cards' | 'holds'>,
  family: Family,
): Promise<void> {
  const rows = await db.select().from(standIns).where(eq(standIns.familyId, family.id))
  for (const { id } of rows) {
    const port = standInPort(id)
    if (holds.by(port) !== undefined) continue
    await holds.quiet(port)
    const now = ports.standIn(port)
    if (now) await keepStandIn(db, now)
    const [row] = await db.select().from(standIns).where(eq(standIns.id, id))
    const made = madeFrom(row!, family)
    if (made.unit) ports.putStandIn(made.unit)
    if (made.card) cards.put(made.card)
  }
}

/** The card or stick that a family's units take in by themselves; null where none is described so far. */
export const mediumOf = ({ links }: Family): Medium | null =>
  links.find(({ medium }) => medium?.update)?.medium ?? null

/** Keeps a stand-in's memory, so that a unit left half written is half written tomorrow. */
export async function keepStandIn(db: Database, unit: Pick<StandIn, 'id' | 'state'>): Promise<void> {
  const { flash, usedAh, inBootloader, lines = {} } = unit.state()
  await db
    .update(standIns)
    .set({ flash: Buffer.from(flash), usedAh, inBootloader, lines })
    .where(eq(standIns.id, unit.id))
}
