import { Problem } from '@bench-wake/core/kernel'
import { Adapter } from '@bench-wake/core/ready'
import { eq } from 'drizzle-orm'
import * as v from 'valibot'
import type { Database } from '../db/open'
import { adapters, jobBenches } from '../db/schema'
import { notFound } from '../problem'

export async function listAdapters(db: Database): Promise<Adapter[]> {
  const rows = await db.select().from(adapters).orderBy(adapters.addedAt, adapters.id)
  return rows.map(({ document }) => v.parse(Adapter, document))
}

/** Keeps an adapter; one with this id is replaced. */
export async function keepAdapter(db: Database, document: Adapter): Promise<void> {
  const names = document.pins.map(({ id }) => id)
  const twin = names.find((id, index) => names.indexOf(id) !== index)
  if (twin !== undefined) {
    throw new Problem({
      kind: 'input',
      place: { at: 'pins' },
      says: `pin "${twin}" is there twice`,
      remedy: 'Give each pin a number or name of its own.',
    })
  }
  await db
    .insert(adapters)
    .values({ id: document.id, document, addedAt: Date.now() })
    .onConflictDoUpdate({ target: adapters.id, set: { document } })
}

/** @throws Problem `in-use` while a job's wiring rests on it. */
export async function removeAdapter(db: Database, id: string): Promise<void> {
  const benches = await db.select().from(jobBenches)
  const user = benches.find(({ say }) => say.wiring?.adapterId === id)
  if (user) {
    throw new Problem({
      kind: 'input',
      thing: id,
      says: 'a job’s wiring rests on this adapter',
      found: user.jobId,
      remedy: 'Choose another one there first, or mark this one as known bad.',
    })
  }
  const gone = await db.delete(adapters).where(eq(adapters.id, id)).returning()
  if (gone.length === 0) throw notFound('adapter', id)
}
