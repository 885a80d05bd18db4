import {
  Carried,
  ClosedJob,
  Heard,
  HeardText,
  Job,
  JobFile,
  JobView,
  Readiness,
  Scanned,
  StandInCard,
  WholePlan,
} from '../answers/jobs'
import { Done, gives, givesFile, takesFile } from './gives'
import { symptomNow } from '@bench-wake/core/job'
import { verdictOf, type Finding } from '@bench-wake/core/kernel'
import { BenchInputs } from '@bench-wake/core/ready'
import { tasks, zipOfCard } from '@bench-wake/core/run'
import { cardHands } from '@bench-wake/standins'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { notFound } from '../problem'
import { cardContentOf, cardVolume } from '../store/card'
import { carriedTo } from '../store/carried'
import {
  answerFollowUp,
  closeJob,
  moveJob,
  releaseHold,
  reopenJob,
  takeBackRelease,
} from '../store/job-deeds'
import { addJobFile, getJobFile, listJobFiles, removeJobFile } from '../store/job-files'
import { addJob, jobRow, sayBench } from '../store/job-rows'
import { listClosedJobs, listJobs } from '../store/job-lists'
import { chooseImage, openJob, viewOf, wholePlan } from '../store/jobs'
import { sayLaptop } from '../store/laptop'
import { namesOf } from '../access/guard'
import { readFile } from 'node:fs/promises'
import { idIn } from './ids'
import { receiveFile } from './uploads'
import { day, linkNext, page, pageRows, release, signer, text, valid, volts } from './validate'

const symptom = v.object({
  says: text(),
  often: v.pipe(v.string(), v.maxLength(400)),
  since: v.union([day, v.literal('')]),
})

/** What may be said of a bench while a run goes: its record holds the rest as it was when the leg began. */
const saidDuringRun = ['laptop', 'back']

/** Of one photo or file of settings. */
const settingsBytes = 12 * 1024 * 1024

const attached = (name: string, type = 'application/octet-stream') => ({
  'content-type': type,
  'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
  'cache-control': 'no-store',
  'x-content-type-options': 'nosniff',
})

export const jobs = ({ db, shelf, runs, room, incoming }: Services) =>
  new Hono()
    .get('/', gives(v.array(JobView)), valid('query', page), async (c) => {
      const { count = pageRows, ...after } = c.req.valid('query')
      const rows = await listJobs(db, shelf, { ...after, count })
      linkNext(c, rows.length, count, rows.at(-1)?.job.id)
      return c.json(rows)
    })
    .get('/closed', gives(v.array(ClosedJob)), valid('query', page), async (c) => {
      const { count = pageRows, ...after } = c.req.valid('query')
      const rows = await listClosedJobs(db, { ...after, count })
      linkNext(c, rows.length, count, rows.at(-1)?.id)
      return c.json(rows)
    })
    .post(
      '/',
      gives(Job, 201),
      valid(
        'json',
        v.object({
          unitId: text(80),
          imageId: v.optional(v.nullable(text(80)), null),
          componentId: v.exactOptional(text(80)),
          task: v.optional(v.picklist(tasks), 'write'),
          kind: v.optional(v.picklist(['fault', 'feature', 'currency']), 'fault'),
          reason: text(1000),
          symptoms: v.optional(v.pipe(v.array(symptom), v.maxLength(40)), []),
          day,
        }),
      ),
      async (c) => c.json(await addJob(db, shelf, c.req.valid('json')), 201),
    )
    .get('/:id', gives(JobView), async (c) => c.json(viewOf(await openJob(db, shelf, c.req.param('id')))))
    .get('/:id/settings', gives(v.array(JobFile)), async (c) => {
      await jobRow(db, c.req.param('id'))
      return c.json(await listJobFiles(db, c.req.param('id')))
    })
    .post('/:id/settings', gives(JobFile, 201), takesFile(), async (c) => {
      const { name, path, done } = await receiveFile(c, incoming, {
        bytes: settingsBytes,
        remedy: 'Photograph page by page, each in a smaller size.',
      })
      try {
        return c.json(await addJobFile(db, c.req.param('id'), name, await readFile(path)), 201)
      } finally {
        await done()
      }
    })
    .get(
      '/:id/card/:file{[0-9]+}',
      givesFile('A file of the job’s card, by its place', 'application/octet-stream'),
      async (c) => {
        const files = cardContentOf(await openJob(db, shelf, c.req.param('id')))
        const file = files[Number(c.req.param('file'))]
        if (!file) throw notFound('file of this card', c.req.param('file'))
        return c.body(file.bytes as Uint8Array<ArrayBuffer>, 200, attached(file.name))
      },
    )
    .get(
      '/:id/card.zip',
      givesFile('The files of the job’s card, in their order', 'application/zip'),
      async (c) => {
        const files = cardContentOf(await openJob(db, shelf, c.req.param('id')))
        return c.body(
          zipOfCard(files) as Uint8Array<ArrayBuffer>,
          200,
          attached('card.zip', 'application/zip'),
        )
      },
    )
    .get(
      '/:id/card.img',
      givesFile('The job’s card as a volume, its files in their order', 'application/octet-stream'),
      async (c) => {
        const files = cardContentOf(await openJob(db, shelf, c.req.param('id')))
        return c.body(cardVolume(files) as Uint8Array<ArrayBuffer>, 200, attached('card.img'))
      },
    )
    .get('/:id/stand-in-card', gives(v.nullable(StandInCard)), async (c) =>
      c.json(room.cards.look((await jobRow(db, c.req.param('id'))).unitId)),
    )
    .post('/:id/stand-in-card', gives(StandInCard), async (c) => {
      const open = await openJob(db, shelf, c.req.param('id'))
      return c.json(room.cards.write(open.unit.id, cardVolume(cardContentOf(open))))
    })
    .put(
      '/:id/stand-in-card',
      gives(StandInCard),
      valid('json', v.object({ hand: v.picklist(cardHands) })),
      async (c) => {
        const { unitId } = await jobRow(db, c.req.param('id'))
        return c.json(room.cards.touch(unitId, c.req.valid('json').hand))
      },
    )
    .get(
      '/:id/settings/:file{[0-9]+}',
      givesFile('A photo or file of the settings', 'image/*', 'application/octet-stream'),
      async (c) => {
        const { content, name, type } = await getJobFile(db, c.req.param('id'), idIn(c.req.param('file')))
        const shown = type.startsWith('image/') ? 'inline' : 'attachment'
        return c.body(content as Uint8Array<ArrayBuffer>, 200, {
          'content-type': type,
          'content-disposition': `${shown}; filename*=UTF-8''${encodeURIComponent(name)}`,
          'cache-control': 'private, max-age=31536000, immutable',
          'x-content-type-options': 'nosniff',
        })
      },
    )
    .delete('/:id/settings/:file{[0-9]+}', gives(Done), async (c) => {
      await removeJobFile(db, c.req.param('id'), idIn(c.req.param('file')))
      return c.json({ ok: true })
    })
    .get('/:id/carried', gives(v.nullable(Carried)), async (c) =>
      c.json(await carriedTo(db, c.req.param('id'))),
    )
    .get('/:id/plan', gives(WholePlan), async (c) => c.json(await wholePlan(db, shelf, c.req.param('id'))))
    .patch(
      '/:id',
      gives(JobView),
      valid(
        'json',
        v.object({
          imageId: v.exactOptional(v.nullable(text(80))),
          /** Another day for it, and who moves it there. */
          day: v.exactOptional(v.object({ to: day, by: signer })),
        }),
      ),
      async (c) => {
        const id = c.req.param('id')
        const form = c.req.valid('json')
        if (form.imageId !== undefined) runs.refuseChange(id)
        if (form.imageId !== undefined) await chooseImage(db, shelf, id, form.imageId)
        if (form.day) await moveJob(db, id, form.day.to, form.day.by, namesOf(c))
        return c.json(viewOf(await openJob(db, shelf, id)))
      },
    )
    .post(
      '/:id/releases',
      gives(JobView, 201),
      valid('json', v.object({ ...release.entries, says: text(1000) })),
      async (c) => {
        const id = c.req.param('id')
        const form = c.req.valid('json')
        await releaseHold(db, id, { ...form, at: Date.now() })
        return c.json(viewOf(await openJob(db, shelf, id)), 201)
      },
    )
    .delete('/:id/releases/:rule', gives(JobView), async (c) => {
      const id = c.req.param('id')
      await takeBackRelease(db, id, c.req.param('rule'))
      return c.json(viewOf(await openJob(db, shelf, id)))
    })
    .post(
      '/:id/reopen',
      gives(JobView),
      valid('json', v.object({ name: signer, reason: text() })),
      async (c) => {
        const id = c.req.param('id')
        const { name, reason } = c.req.valid('json')
        await reopenJob(db, id, { name, names: namesOf(c), reason })
        return c.json(viewOf(await openJob(db, shelf, id)))
      },
    )
    .put('/:id/bench', gives(JobView), valid('json', BenchInputs), async (c) => {
      const id = c.req.param('id')
      await openJob(db, shelf, id)
      const say = c.req.valid('json')
      if (Object.keys(say).some((part) => !saidDuringRun.includes(part))) runs.refuseChange(id)
      await sayBench(db, id, say)
      // The laptop is one and the same for every job.
      if (say.laptop) await sayLaptop(db, say.laptop)
      return c.json(viewOf(await openJob(db, shelf, id)))
    })
    .get(
      '/:id/ready',
      gives(Readiness),
      valid('query', v.object({ port: v.exactOptional(text()), supplyVolts: v.exactOptional(volts) })),
      async (c) => {
        const { port, supplyVolts } = c.req.valid('query')
        const gates = await runs.readiness.ready(c.req.param('id'), port ?? null, supplyVolts ?? null)
        const findings: Finding[] = gates.flatMap((gate) => gate.findings)
        const unknown = gates.some((gate) => gate.verdict === 'unknown')
        const verdict = verdictOf(findings)
        return c.json({ verdict: unknown && verdict !== 'stop' ? ('unknown' as const) : verdict, gates })
      },
    )
    .post('/:id/listen', gives(Heard), valid('json', v.object({ port: text() })), async (c) => {
      const open = await openJob(db, shelf, c.req.param('id'))
      const { family, link } = open
      const { port } = c.req.valid('json')
      await runs.readiness.refuseShutLink(port, family, open)
      return c.json(await room.readings.hearsBootloader(port, family, link?.id))
    })
    .post(
      '/:id/hands',
      gives(Done),
      valid('json', v.object({ port: text(), did: v.picklist(['off', 'entry']) })),
      async (c) => {
        await openJob(db, shelf, c.req.param('id'))
        const { port, did } = c.req.valid('json')
        room.readings.hands(port, did)
        return c.json({ ok: true })
      },
    )
    .post(
      '/:id/entry-act',
      gives(HeardText),
      valid('json', v.object({ port: text(), way: text(80), act: text(80) })),
      async (c) => {
        const open = await openJob(db, shelf, c.req.param('id'))
        const { family, link } = open
        const { port, ...asked } = c.req.valid('json')
        await runs.readiness.refuseShutLink(port, family, open)
        return c.json(await room.readings.entryAct(port, family, link?.id, asked))
      },
    )
    .post('/:id/scan', gives(Scanned), valid('json', v.object({ port: text() })), async (c) => {
      const id = c.req.param('id')
      const open = await openJob(db, shelf, id)
      const { family, bench } = open
      const { port } = c.req.valid('json')
      await runs.readiness.refuseShutLink(port, family, open, { scanning: true })
      const scan = await room.readings.scan(port, family, bench.isolation?.unplugged ?? [])
      // Noise at an address is more than one unit there: it counts twice.
      const found = [...scan.found.map(({ address }) => address), ...scan.garbled.flatMap((at) => [at, at])]
      const scanned = { at: Date.now(), found, silent: scan.silent }
      await sayBench(db, id, { isolation: { ...bench.isolation, scanned } })
      return c.json({ scan, scanned })
    })
    .post(
      '/:id/asked',
      gives(JobView),
      valid(
        'json',
        v.object({
          name: signer,
          now: v.picklist(['gone', 'there']),
          note: v.optional(v.pipe(v.string(), v.maxLength(1000)), ''),
        }),
      ),
      async (c) => {
        const id = c.req.param('id')
        const form = c.req.valid('json')
        await answerFollowUp(db, id, { ...form, names: namesOf(c) })
        return c.json(viewOf(await openJob(db, shelf, id)))
      },
    )
    .post(
      '/:id/close',
      gives(JobView),
      valid(
        'json',
        v.object({
          name: signer,
          note: v.optional(v.pipe(v.string(), v.maxLength(2000)), ''),
          tookDown: v.optional(v.pipe(v.array(text(120)), v.maxLength(100)), []),
          symptoms: v.exactOptional(
            v.pipe(v.array(v.object({ says: text(), now: v.picklist(symptomNow) })), v.maxLength(40)),
          ),
          askAgain: v.exactOptional(day),
        }),
      ),
      async (c) => {
        const id = c.req.param('id')
        const form = c.req.valid('json')
        await closeJob(db, shelf, id, { ...form, names: namesOf(c) })
        return c.json(viewOf(await openJob(db, shelf, id)))
      },
    )
