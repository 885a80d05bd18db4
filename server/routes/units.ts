import { FullUnit, KnownUnit, Practice, SavedPhoto, SavedSnapshot } from '../answers/units'
import { Unit } from '../answers/parts/unit'
import { Done, gives, givesFile, takesFile } from './gives'
import { readingPlaces, type Family } from '@bench-wake/core/family'
import { isProblem } from '@bench-wake/core/kernel'
import { withLikelyCause } from '@bench-wake/core/ready'
import { logbookRow } from '@bench-wake/core/record'
import { readPage, type Snapshot } from '@bench-wake/core/unit'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { getFamily } from '../store/families'
import { notFound } from '../problem'
import { refusePractice } from '../ports/practice-port'
import { practise } from '../store/practice'
import { openJob } from '../store/jobs'
import { listRequests } from '../store/requests'
import { listRunsOf } from '../store/runs'
import { readOutsOf } from '../store/read-outs'
import {
  addAnswer,
  addPhoto,
  addSnapshot,
  addUnit,
  getPhoto,
  getUnit,
  listUnits,
  otherUnit,
  refuseUnread,
} from '../store/units'
import { readFile } from 'node:fs/promises'
import { receiveFile } from './uploads'
import { idIn } from './ids'
import { linkNext, page, text, valid, witness } from './validate'

/** Places from which a person reads; over a link the program reads itself. */
const byPerson = readingPlaces.filter((place) => place !== 'link')
const source = v.picklist(byPerson)

const snapshotForm = v.union([
  v.object({
    port: text(),
    /** The job whose bench says what stands. */
    jobId: v.exactOptional(text(80)),
    /** Without a job: the rules that a person answers for at this reading. */
    looked: v.exactOptional(v.pipe(v.array(text(80)), v.maxLength(20))),
  }),
  v.object({ source, text: v.pipe(v.string(), v.minLength(1), v.maxLength(20_000)) }),
  v.object({
    source,
    lines: v.pipe(
      v.array(
        v.object({
          field: text(80),
          label: text(80),
          value: text(),
          source: v.exactOptional(source),
        }),
      ),
      v.minLength(1),
      v.maxLength(200),
    ),
  }),
])

/** Units of a page where no number is asked for: a harbour's worth of them at once. */
const unitRows = 1000

const photoBytes = 12 * 1024 * 1024

/** Reads over a link whose bench stands; a failed reading names its likely cause. */
async function readOver(
  { db, shelf, runs, room }: Services,
  unitId: string,
  family: Family,
  { port, jobId, looked }: { port: string; jobId?: string; looked?: string[] },
): Promise<Snapshot> {
  const job = jobId === undefined ? null : await openJob(db, shelf, jobId)
  if (job && job.unit.id !== unitId) throw notFound('job of this unit', job.job.id)
  refusePractice(port, unitId)
  const gates = await runs.readiness.refuseShutLink(port, family, job, { looked: looked ?? [] })
  try {
    return await room.readings.read(port, family, job?.bench.wiring?.linkId)
  } catch (error) {
    throw isProblem(error) ? withLikelyCause(error, gates) : error
  }
}

export const units = (services: Services) => {
  const { db, incoming } = services
  return new Hono()
    .get('/', gives(v.array(KnownUnit)), valid('query', page), async (c) => {
      const { count = unitRows, ...after } = c.req.valid('query')
      const rows = await listUnits(db, { ...after, count })
      linkNext(c, rows.length, count, rows.at(-1)?.id)
      return c.json(rows)
    })
    .post(
      '/',
      gives(Unit, 201),
      valid('json', v.object({ familyId: text(80), name: text(), place: text(), serial: text(80) })),
      async (c) => c.json(await addUnit(db, c.req.valid('json')), 201),
    )
    .get('/:id', gives(FullUnit), async (c) => {
      const unit = await getUnit(db, c.req.param('id'))
      const runs = await listRunsOf(db, unit.id)
      return c.json({
        ...unit,
        runs: runs.map(({ state }) => logbookRow(state)),
        requests: await listRequests(db, unit.id),
        backups: await readOutsOf(services, unit, runs),
      })
    })
    .post(
      '/:id/practice',
      gives(Practice, 201),
      valid('json', v.object({ jobId: v.exactOptional(text(80)) })),
      async (c) => {
        const { jobId } = c.req.valid('json')
        return c.json(await practise(services, c.req.param('id'), jobId), 201)
      },
    )
    .post('/:id/snapshots', gives(SavedSnapshot, 201), valid('json', snapshotForm), async (c) => {
      const unit = await getUnit(db, c.req.param('id'))
      const form = c.req.valid('json')
      const family = await getFamily(db, unit.familyId)
      const snapshot: Snapshot =
        'port' in form
          ? await readOver(services, unit.id, family, form)
          : 'text' in form
            ? readPage(family, form.text, Date.now(), form.source)
            : { at: Date.now(), source: form.source, lines: form.lines }
      refuseUnread(family, snapshot)
      const other = otherUnit(unit, snapshot)
      if (other) {
        // It was read, so it is kept; it is another unit's, so it counts for nothing.
        await addSnapshot(db, unit.id, snapshot, `serial ${other.facts.found}, not ${unit.serial}`)
        throw other
      }
      return c.json({ ...snapshot, id: await addSnapshot(db, unit.id, snapshot) }, 201)
    })
    .post('/:id/snapshots/:snapshot{[0-9]+}/photo', gives(SavedPhoto, 201), takesFile(), async (c) => {
      const { name, path, done } = await receiveFile(c, incoming, {
        bytes: photoBytes,
        remedy: 'Take it again in a smaller size.',
      })
      try {
        const id = idIn(c.req.param('snapshot'))
        return c.json({ photo: await addPhoto(db, c.req.param('id'), id, name, await readFile(path)) }, 201)
      } finally {
        await done()
      }
    })
    .get('/:id/photos/:sha256', givesFile('The photo', 'image/*'), async (c) => {
      const { type, bytes } = await getPhoto(db, c.req.param('id'), c.req.param('sha256'))
      return c.body(bytes as Uint8Array<ArrayBuffer>, 200, {
        'content-type': type,
        'cache-control': 'private, max-age=31536000, immutable',
        'x-content-type-options': 'nosniff',
      })
    })
    .post(
      '/:id/answers',
      gives(Done, 201),
      valid('json', v.object({ question: text(80), answer: text(80), by: witness })),
      async (c) => {
        const form = c.req.valid('json')
        await addAnswer(db, c.req.param('id'), form)
        return c.json({ ok: true }, 201)
      },
    )
}
