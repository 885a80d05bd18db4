import { joinKits, type KitEntry } from '@bench-wake/core/ready'
import { and, eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { packedItems } from '../db/schema'

/** Ids of what is packed for a day. */
export async function packedFor(db: Database, day: string): Promise<Set<string>> {
  const rows = await db.select().from(packedItems).where(eq(packedItems.day, day))
  return new Set(rows.map(({ item }) => item))
}

export async function pack(db: Database, day: string, item: string, packed: boolean): Promise<void> {
  if (packed) await db.insert(packedItems).values({ day, item, at: Date.now() }).onConflictDoNothing()
  else await db.delete(packedItems).where(and(eq(packedItems.day, day), eq(packedItems.item, item)))
}

/** The list of a day: what its jobs want, each thing once. */
export async function kitForDay(
  db: Database,
  day: string,
  kits: readonly (readonly Omit<KitEntry, 'packed'>[])[],
): Promise<KitEntry[]> {
  return joinKits(kits, await packedFor(db, day))
}
