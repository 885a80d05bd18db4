import { CaseLog, CaseView, ListedCase, Recording, RoundChanges, RoundMap } from '../answers/cases'
import { Finding } from '../answers/parts/kernel'
import { Done, gives, givesFile, takesFile } from './gives'
import { Problem } from '@bench-wake/core/kernel'
import { CaseAgreement, readBesideDevice } from '@bench-wake/core/rounds'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { speeds } from '../ports/port-clock'
import { notFound } from '../problem'
import { changesAnswer, mapAnswer } from '../rounds/round-changes'
import { answerStandIn, handsFor, isStandIn, logStandIn } from '../rounds/stand-in-case'
import {
  agreeAnew,
  changesOf,
  closeCase,
  jobForRound,
  lookAtRevision,
  openCase,
  openCaseView,
  reopenCase,
  roundOf,
  takeRevision,
  tellCase,
} from '../store/case-deeds'
import { acceptLog, logFile, takeLog } from '../store/case-logs'
import { packageFile, sendRound } from '../store/case-package'
import { caseView, listCases, roundMap } from '../store/cases'
import { idIn } from './ids'
import { receiveFile } from './uploads'
import { day, openDocument, signer, signerOf, text, valid } from './validate'

/** Longest log that is taken; an hour of sixty channels at a hundred rows a second is less. */
const logBytes = 256 * 1024 * 1024
const words = v.pipe(v.string(), v.trim(), v.maxLength(4000))
const revision = v.object({ imageId: text(80), definitionId: v.nullable(text(80)) })

/** An agreement as it comes in: its second device is a script, read by its own schema. */
const AgreementForm = v.strictObject({ ...CaseAgreement.entries, beside: v.exactOptional(openDocument) })
const agreementOf = ({ beside, ...agreement }: v.InferOutput<typeof AgreementForm>) => ({
  ...agreement,
  ...(beside ? { beside: readBesideDevice(beside) } : {}),
})

export const cases = (services: Services) => {
  const { db, shelf, worker, incoming, recordings } = services
  const viewOf = async (id: string) => {
    const view = await caseView(db, id)
    return { ...view, practice: isStandIn(services, view.unit.id) }
  }
  return new Hono()
    .get('/', gives(v.array(ListedCase)), async (c) => c.json(await listCases(db)))
    .post(
      '/',
      gives(CaseView, 201),
      valid('json', v.object({ unitId: text(80), agreement: AgreementForm, by: signer })),
      async (c) => {
        const { by, unitId, agreement } = c.req.valid('json')
        const form = { unitId, agreement: agreementOf(agreement), by }
        return c.json(await viewOf(await openCase(db, form)), 201)
      },
    )
    .get('/:id', gives(CaseView), async (c) => c.json(await viewOf(c.req.param('id'))))
    .post(
      '/:id/agreement',
      gives(CaseView),
      valid('json', v.object({ agreement: AgreementForm, by: signer, why: words })),
      async (c) => {
        const id = c.req.param('id')
        const { by, why, agreement } = c.req.valid('json')
        await agreeAnew(db, worker, id, { agreement: agreementOf(agreement), why, by })
        return c.json(await viewOf(id))
      },
    )
    .post(
      '/:id/machine-changes',
      gives(CaseView),
      valid('json', v.object({ says: text(1000), by: signer })),
      async (c) => {
        const id = c.req.param('id')
        const { says, by } = c.req.valid('json')
        const { state } = await openCaseView(db, id)
        if (state.rounds.length === 0)
          throw new Problem({
            kind: 'no-revision',
            thing: state.agreement.title,
            says: 'no round has begun yet',
            remedy: 'Write it into the list of parts.',
          })
        await tellCase(db, id, { kind: 'machine-changed', says, by })
        return c.json(await viewOf(id))
      },
    )
    .post('/:id/revisions/look', gives(v.array(Finding)), valid('json', revision), async (c) => {
      const view = await openCaseView(db, c.req.param('id'))
      return c.json((await lookAtRevision(db, shelf, view, c.req.valid('json'))).findings)
    })
    .post(
      '/:id/revisions',
      gives(CaseView, 201),
      valid(
        'json',
        v.object({ ...revision.entries, remarks: words, by: signer, despite: v.exactOptional(text()) }),
      ),
      async (c) => {
        const id = c.req.param('id')
        const { by, ...form } = c.req.valid('json')
        await takeRevision(db, shelf, id, { ...form, by })
        return c.json(await viewOf(id), 201)
      },
    )
    .get('/:id/rounds/:round/changes', gives(v.nullable(RoundChanges)), async (c) => {
      const view = await caseView(db, c.req.param('id'))
      const changes = await changesOf(db, shelf, view, idIn(c.req.param('round')))
      return c.json(changes && changesAnswer(changes))
    })
    .get('/:id/rounds/:round/map', gives(v.nullable(RoundMap)), async (c) => {
      const { state, logs } = await caseView(db, c.req.param('id'))
      const { number } = roundOf(state.rounds, idIn(c.req.param('round')))
      const { aim } = state.agreement
      const map = aim && roundMap(state, logs, number, aim)
      return c.json(aim && map && mapAnswer(aim, map))
    })
    .post(
      '/:id/job',
      gives(v.object({ jobId: v.string() })),
      valid('json', v.object({ by: signer, day })),
      async (c) => {
        const { by, ...form } = c.req.valid('json')
        return c.json(await jobForRound(db, shelf, c.req.param('id'), { ...form, by }))
      },
    )
    .post('/:id/logs', gives(CaseLog, 201), takesFile('kind', 'by'), async (c) => {
      const { name, path, fields, done } = await receiveFile(c, incoming, {
        bytes: logBytes,
        remedy: 'Log fewer channels, or cut the log into pieces.',
      })
      try {
        const by = signerOf(c, fields['by'])
        const logKind = fields['kind']?.slice(0, 80) ?? ''
        return c.json(await takeLog(db, worker, c.req.param('id'), { path, name, logKind, by }), 201)
      } finally {
        await done()
      }
    })
    .post(
      '/:id/stand-in/log',
      gives(CaseLog, 201),
      valid('json', v.object({ logKind: text(80), by: signer })),
      async (c) => {
        const { by, logKind } = c.req.valid('json')
        return c.json(await logStandIn(services, c.req.param('id'), { logKind, by }), 201)
      },
    )
    .post(
      '/:id/stand-in/answer',
      gives(CaseView, 201),
      valid('json', v.object({ by: signer })),
      async (c) => {
        const id = c.req.param('id')
        await answerStandIn(services, id, c.req.valid('json').by)
        return c.json(await viewOf(id), 201)
      },
    )
    .get('/:id/recording', gives(v.nullable(Recording)), async (c) => {
      await caseView(db, c.req.param('id'))
      return c.json(recordings.state(c.req.param('id')))
    })
    .post(
      '/:id/recording',
      gives(Recording, 201),
      valid(
        'json',
        v.object({
          port: text(200),
          /** The port of the second device, where channels come from one. */
          besidePort: v.optional(text(200)),
          logKind: text(80),
          by: signer,
          speed: v.optional(v.picklist(speeds), 1),
          /** Somebody looked: the adapter is at this unit, and people are clear of it. */
          looked: v.literal(true),
        }),
      ),
      async (c) => {
        const caseId = c.req.param('id')
        const { by, port, besidePort, logKind, speed } = c.req.valid('json')
        const hands = await handsFor(services, caseId, port, logKind)
        const form = {
          caseId,
          portId: port,
          besidePortId: besidePort,
          logKind,
          by,
          speed,
          ...hands,
        }
        return c.json(await recordings.start(form), 201)
      },
    )
    .post('/:id/recording/stop', gives(v.nullable(Recording)), async (c) => {
      recordings.stop(c.req.param('id'))
      await recordings.over(c.req.param('id'))
      return c.json(recordings.state(c.req.param('id')))
    })
    .get('/:id/logs/:log/bytes', givesFile('A log as it came', 'text/csv'), async (c) => {
      const { file, name } = await logFile(db, c.req.param('id'), c.req.param('log'))
      return c.body(file as Uint8Array<ArrayBuffer>, 200, {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
        'cache-control': 'private, max-age=31536000, immutable',
        'x-content-type-options': 'nosniff',
      })
    })
    .post(
      '/:id/logs/:log/accept',
      gives(CaseView),
      valid('json', v.object({ why: text(), by: signer })),
      async (c) => {
        const id = c.req.param('id')
        const { why, by } = c.req.valid('json')
        await acceptLog(db, id, c.req.param('log'), { why, by })
        return c.json(await viewOf(id))
      },
    )
    .post(
      '/:id/logs/:log/leave-out',
      gives(CaseView),
      valid('json', v.object({ why: text(), by: signer })),
      async (c) => {
        const id = c.req.param('id')
        const { why, by } = c.req.valid('json')
        const { logs } = await openCaseView(db, id)
        const log = logs.find((each) => each.id === c.req.param('log'))
        if (!log) throw notFound('log', c.req.param('log'))
        await tellCase(db, id, { kind: 'log-left-out', logId: log.id, why, by })
        return c.json(await viewOf(id))
      },
    )
    .post(
      '/:id/send',
      gives(v.object({ sha256: v.string(), name: v.string() })),
      valid('json', v.object({ symptoms: words, by: signer })),
      async (c) => {
        const { by, symptoms } = c.req.valid('json')
        return c.json(await sendRound(db, shelf, worker, c.req.param('id'), { symptoms, by }))
      },
    )
    .get('/:id/packages/:sha256', givesFile('What went to the calibrator', 'application/zip'), async (c) => {
      const { file, name } = await packageFile(db, c.req.param('id'), c.req.param('sha256'))
      return c.body(file as Uint8Array<ArrayBuffer>, 200, {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
        'x-content-type-options': 'nosniff',
      })
    })
    .post(
      '/:id/close',
      gives(Done),
      valid(
        'json',
        v.object({
          by: signer,
          outcome: v.picklist(['reached', 'mechanical', 'given-up']),
          says: text(1000),
        }),
      ),
      async (c) => {
        const { by, ...form } = c.req.valid('json')
        await closeCase(db, c.req.param('id'), { ...form, by })
        return c.json({ ok: true })
      },
    )
    .post('/:id/reopen', gives(Done), valid('json', v.object({ by: signer, why: text(1000) })), async (c) => {
      const { by, why } = c.req.valid('json')
      await reopenCase(db, c.req.param('id'), { by, why })
      return c.json({ ok: true })
    })
}
