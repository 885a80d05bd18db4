import { isProblem } from '@bench-wake/core/kernel'
import { desc, sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { refusals } from '../db/schema'

/** What was refused for the unit's or the record's sake is part of the record; a mistyped field is not. */
const kept: ReadonlySet<string> = new Set([
  'prompt-not-open',
  'port-held',
  'gate-not-go',
  'blob-altered',
  'wake-altered',
  'aftercare-left',
  'not-taken-down',
])
/** Refusals kept; the oldest go first. */
const maxKept = 1000
const maxListed = 50

export type Refusal = typeof refusals.$inferSelect

/**
 * Keeps a refusal.
 * @param asked what was asked for: method and path.
 */
export async function keepRefusal(db: Database, asked: string, error: unknown): Promise<void> {
  if (!isProblem(error) || !kept.has(error.facts.kind)) return
  const { kind, thing, says, found } = error.facts
  await db.insert(refusals).values({
    at: Date.now(),
    kind,
    asked,
    says,
    ...(thing === undefined ? {} : { thing }),
    ...(found === undefined ? {} : { found }),
  })
  await db
    .delete(refusals)
    .where(sql`${refusals.id} <= (select max(${refusals.id}) from ${refusals}) - ${maxKept}`)
}

/** The newest first. */
export const listRefusals = (db: Database): Promise<Refusal[]> =>
  db.select().from(refusals).orderBy(desc(refusals.id)).limit(maxListed)
