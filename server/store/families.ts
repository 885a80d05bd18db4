import { readFamily, type Family, type FamilyDocument } from '@bench-wake/core/family'
import { Problem } from '@bench-wake/core/kernel'
import { and, desc, eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { families } from '../db/schema'
import { notFound } from '../problem'

export interface KeptFamily {
  document: FamilyDocument
  family: Family
}

/** The newest revision of each family, by name. Documents are validated on their way out. */
export async function listFamilies(db: Database): Promise<KeptFamily[]> {
  const rows = await db.select().from(families).orderBy(families.id, desc(families.revision))
  return rows
    .filter((row, index) => rows[index - 1]?.id !== row.id)
    .map(({ document }) => ({ document, family: readFamily(document) }))
    .sort((a, b) => a.family.name.localeCompare(b.family.name))
}

export async function getFamily(db: Database, id: string): Promise<Family> {
  const [row] = await db
    .select()
    .from(families)
    .where(eq(families.id, id))
    .orderBy(desc(families.revision))
    .limit(1)
  if (!row) throw notFound('family', id)
  return readFamily(row.document)
}

/** Keeps a profile. A revision that is kept already is never changed under the runs that used it. */
export async function addFamily(db: Database, document: unknown): Promise<Family> {
  const family = readFamily(document)
  const [twin] = await db
    .select({ id: families.id })
    .from(families)
    .where(and(eq(families.id, family.id), eq(families.revision, family.revision)))
  if (twin) {
    throw new Problem({
      kind: 'twin',
      thing: family.name,
      place: { at: 'revision' },
      says: `revision ${family.revision} of this profile is kept already`,
      remedy: 'Give the changed profile the next revision number.',
    })
  }
  await db.insert(families).values({
    id: family.id,
    revision: family.revision,
    document: document as FamilyDocument,
    addedAt: Date.now(),
  })
  return family
}
