import type { SupplierRequest } from '@bench-wake/core/fit'
import { Problem } from '@bench-wake/core/kernel'
import { desc, eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { requests } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { getUnit } from './units'

/** What was asked of suppliers, newest first; `unitId` narrows it. */
/** @param unitId of this unit alone. */
export async function listRequests(db: Database, unitId?: string): Promise<SupplierRequest[]> {
  return db
    .select()
    .from(requests)
    .where(unitId === undefined ? undefined : eq(requests.unitId, unitId))
    .orderBy(desc(requests.askedAt))
}

export async function addRequest(
  db: Database,
  form: Pick<SupplierRequest, 'unitId' | 'asked' | 'of' | 'dueDay'> & { id?: string; askedAt?: number },
): Promise<SupplierRequest> {
  await getUnit(db, form.unitId)
  const row: SupplierRequest = {
    ...form,
    id: form.id ?? newId('request'),
    askedAt: form.askedAt ?? Date.now(),
    answer: null,
    imageId: null,
    closedAt: null,
  }
  await db.insert(requests).values(row)
  return row
}

/** Keeps what was answered and by whom; an answer may be followed by another. */
export async function answerRequest(
  db: Database,
  id: string,
  answer: NonNullable<SupplierRequest['answer']>,
): Promise<void> {
  await openRequest(db, id)
  await db.update(requests).set({ answer }).where(eq(requests.id, id))
}

/** Settles a request: the image that came of it, or none when it was given up. */
export async function closeRequest(db: Database, id: string, imageId: string | null): Promise<void> {
  await openRequest(db, id)
  await db.update(requests).set({ imageId, closedAt: Date.now() }).where(eq(requests.id, id))
}

/** Opens a settled request again: what came was something else. @throws Problem `not-found`, `request-open`. */
export async function reopenRequest(db: Database, id: string): Promise<void> {
  const [row] = await db.select().from(requests).where(eq(requests.id, id))
  if (!row) throw notFound('request', id)
  if (row.closedAt === null)
    throw new Problem({
      kind: 'request-open',
      thing: row.asked,
      says: 'this request is open already',
      remedy: 'Wait for its answer, or settle it.',
    })
  await db.update(requests).set({ imageId: null, closedAt: null }).where(eq(requests.id, id))
}

async function openRequest(db: Database, id: string): Promise<void> {
  const [row] = await db.select().from(requests).where(eq(requests.id, id))
  if (!row) throw notFound('request', id)
  if (row.closedAt === null) return
  throw new Problem({
    kind: 'request-closed',
    thing: row.asked,
    says: 'this request is settled already',
    remedy: 'Make a new one.',
  })
}
