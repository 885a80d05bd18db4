import type { BodyOf } from '@bench-wake/core/run'
import type { Snapshot } from '@bench-wake/core/unit'
import { and, eq, inArray, sql } from 'drizzle-orm'
import type { Database } from '../db/open'
import { eventText, readable, runs, snapshots, wakeEvents } from '../db/schema'
import { bodyOf } from './event-body'
import type { RunHead } from './run-summaries'

export interface KeptSnapshot extends Snapshot {
  /** Absent for a page that a run read: that one stays in its wake. */
  id?: number
  /** The run that read it, when one did. */
  runId?: string
  /** Digest of the photo that is kept with it. */
  photo?: string
  /** Why it counts for nothing: it is another unit's page. */
  refused?: string
}

/** A page that a run read, as it stands in its wake. */
interface PageInRun {
  unitId: string
  runId: string
  body: BodyOf<'snapshot'>
  row: number
}

const pagesBefore = new WeakMap<Database, Map<string, { mark: string; pages: PageInRun[] }>>()

/** Pages that the runs of these units read; of each they are read anew only when one of its runs has grown. */
async function pagesInRuns(
  db: Database,
  unitIds: readonly string[],
  heads: ReadonlyMap<string, readonly RunHead[]>,
): Promise<PageInRun[]> {
  const before = pagesBefore.get(db) ?? new Map<string, { mark: string; pages: PageInRun[] }>()
  pagesBefore.set(db, before)
  const all: PageInRun[] = []
  for (const unitId of unitIds) {
    const mark = (heads.get(unitId) ?? []).map(({ hash }) => hash).join()
    if (mark === '') continue
    let known = before.get(unitId)
    if (known?.mark !== mark) {
      known = { mark, pages: await readPagesInRuns(db, unitId) }
      before.set(unitId, known)
    }
    all.push(...known.pages)
  }
  return all
}

const readPagesInRuns = async (db: Database, unitId?: string): Promise<PageInRun[]> => {
  const rows = await db
    .select({
      unitId: runs.unitId,
      runId: runs.id,
      text: eventText,
      row: sql<number>`"wake_events"."rowid"`,
    })
    // From the unit's runs, and not through every page that any unit ever said: SQLite keeps the order of a cross join.
    .from(runs)
    .crossJoin(wakeEvents)
    .where(
      and(
        eq(runs.id, wakeEvents.runId),
        eq(wakeEvents.type, 'snapshot'),
        readable,
        unitId === undefined ? undefined : eq(runs.unitId, unitId),
      ),
    )
  return rows.flatMap(({ text, ...row }) => {
    const body = bodyOf(text)
    return body?.type === 'snapshot' ? [{ ...row, body }] : []
  })
}

/** Pages by unit in the order they were recorded: those read by themselves and those that runs read, which stay in their wakes. */
export async function allSnapshots(
  db: Database,
  unitIds?: readonly string[],
  heads: ReadonlyMap<string, readonly RunHead[]> = new Map(),
): Promise<Map<string, KeptSnapshot[]>> {
  const alone = await db
    .select()
    .from(snapshots)
    .where(unitIds && inArray(snapshots.unitId, [...unitIds]))
    .orderBy(snapshots.id)
  const inRuns = unitIds ? await pagesInRuns(db, unitIds, heads) : await readPagesInRuns(db)
  const placed = [
    ...alone.map(
      ({ unitId: owner, id, at, source, lines, photoSha256, inBootloader, refused, afterEvent }) => ({
        owner,
        // Behind the event it came after; among themselves such pages stand in their own order.
        order: [afterEvent, id] as const,
        page: {
          id,
          at,
          source,
          lines,
          ...(inBootloader ? { inBootloader: true as const } : {}),
          ...(refused ? { refused } : {}),
          ...(photoSha256 ? { photo: photoSha256 } : {}),
        },
      }),
    ),
    ...inRuns.map(({ unitId: owner, runId, body, row }) => {
      const { snapshot, refused } = body
      return {
        owner,
        order: [row, 0] as const,
        page: { ...snapshot, runId, ...(refused ? { refused } : {}) },
      }
    }),
  ].sort((a, b) => a.order[0] - b.order[0] || a.order[1] - b.order[1])
  const pages = new Map<string, KeptSnapshot[]>()
  for (const { owner, page } of placed) {
    const list = pages.get(owner)
    if (list) list.push(page)
    else pages.set(owner, [page])
  }
  return pages
}
