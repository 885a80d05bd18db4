import { Problem } from '@bench-wake/core/kernel'
import { answerPackage, kindsLeft } from '@bench-wake/core/rounds'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { caseEvents, casePackages } from '../db/schema'
import { notFound } from '../problem'
import type { WorkerThread } from '../worker/worker-thread'
import { keepBlob, readBlob } from './blobs'
import { changesOf, openCaseView } from './case-deeds'
import type { Shelf } from './shelf'

/** Makes the package of the newest round and says that it went out. @throws Problem `not-ready` with what is missing. */
export async function sendRound(
  db: Database,
  shelf: Shelf,
  worker: WorkerThread,
  id: string,
  form: { symptoms: string; by: string; at?: number },
): Promise<{ sha256: string; name: string }> {
  const view = await openCaseView(db, id)
  const { unit, state, logs } = view
  const { agreement } = state
  const round = state.rounds.at(-1)
  const left = round ? kindsLeft(agreement, round) : []
  if (!round?.written || left.length > 0) {
    const names = left.map((kind) => agreement.kinds.find((each) => each.id === kind)?.name ?? kind)
    throw new Problem({
      kind: 'not-ready',
      thing: agreement.title,
      says: round?.written
        ? `no good log yet of: ${names.join(', ')}`
        : 'the image of this round is not proved yet',
      remedy: round?.written ? `Log ${names[0]} next.` : 'Write and prove it first.',
    })
  }
  const image = await shelf.image(round.imageId)
  const kindName = (kind: string) => agreement.kinds.find((each) => each.id === kind)?.name ?? kind
  const counted = logs.filter((log) => round.logs.some((each) => each.id === log.id && each.leftOut === null))
  const packaged = []
  for (const log of counted) {
    const bytes = await readBlob(db, log.sha256)
    if (!bytes) throw notFound('log', log.name)
    const title = `${agreement.title}, round ${round.number}: ${kindName(log.logKind)}`
    packaged.push({
      kind: kindName(log.logKind),
      name: log.name,
      bytes,
      picture: await worker.ask('drawLog', { sha256: log.sha256, agreement, title }),
      says: log.findings.map(({ says }) => says),
    })
  }
  const zip = answerPackage({
    agreement,
    unit: { name: unit.name, serial: unit.serial },
    round: round.number,
    image: { name: image.name, sha256: image.sha256, version: image.identity?.version ?? null },
    changes: await changesOf(db, shelf, view, round.number),
    machineChanges: round.machineChanges.map(({ says }) => says),
    symptoms: form.symptoms,
    logs: packaged,
  })
  const at = form.at ?? Date.now()
  const sha256 = await keepBlob(db, zip)
  const name = `${agreement.title.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase()}-round-${round.number}.zip`
  await db.batch([
    db
      .insert(casePackages)
      .values({ sha256, caseId: id, round: round.number, name, at })
      .onConflictDoNothing(),
    db
      .insert(caseEvents)
      .values({ caseId: id, at, event: { kind: 'sent', by: form.by, sha256, symptoms: form.symptoms } }),
  ])
  return { sha256, name }
}

/** The package of a round as it went out. @throws Problem `not-found`. */
export async function packageFile(
  db: Database,
  caseId: string,
  sha256: string,
): Promise<{ name: string; file: Buffer }> {
  const [row] = await db.select().from(casePackages).where(eq(casePackages.sha256, sha256))
  const file = row?.caseId === caseId ? await readBlob(db, sha256) : null
  if (!row || !file) throw notFound('package', sha256.slice(0, 12))
  return { name: row.name, file }
}
