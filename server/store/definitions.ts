import { Problem } from '@bench-wake/core/kernel'
import {
  readDefinitionDocument,
  type TableDefinition,
  type TableDefinitionDocument,
} from '@bench-wake/core/rounds'
import { desc, eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { caseEvents, tableDefinitions } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'

export interface ListedDefinition {
  id: string
  name: string
  tables: number
  addedAt: number
}

/** Newest first. */
export async function listDefinitions(db: Database): Promise<ListedDefinition[]> {
  const rows = await db.select().from(tableDefinitions).orderBy(desc(tableDefinitions.addedAt))
  return rows.map(({ id, document, addedAt }) => ({
    id,
    name: document.name,
    tables: document.tables.length,
    addedAt,
  }))
}

/** Keeps a definition. @throws Problem `definition`, with the path of the first fault. */
export async function addDefinition(
  db: Database,
  document: unknown,
  id = newId('definition'),
): Promise<ListedDefinition> {
  const { name, tables } = readDefinitionDocument(document)
  const addedAt = Date.now()
  await db.insert(tableDefinitions).values({ id, document: document as TableDefinitionDocument, addedAt })
  return { id, name, tables: tables.length, addedAt }
}

/** @throws Problem `not-found`. */
export async function definitionDocument(db: Database, id: string): Promise<TableDefinitionDocument> {
  const [row] = await db.select().from(tableDefinitions).where(eq(tableDefinitions.id, id))
  if (!row) throw notFound('definition', id)
  return row.document
}

export async function getDefinition(db: Database, id: string): Promise<TableDefinition> {
  return readDefinitionDocument(await definitionDocument(db, id))
}

/** Removes a definition that no round rests on. @throws Problem `in-use`, `not-found`. */
export async function removeDefinition(db: Database, id: string): Promise<void> {
  const { name } = await definitionDocument(db, id)
  const used = (await db.select({ event: caseEvents.event }).from(caseEvents)).some(
    ({ event }) => event.kind === 'revision' && event.definitionId === id,
  )
  if (used)
    throw new Problem({
      kind: 'in-use',
      thing: name,
      says: 'a round rests on this definition',
      remedy: 'Leave it: without it nobody can say what that round changed.',
    })
  await db.delete(tableDefinitions).where(eq(tableDefinitions.id, id))
}
