import { FamilyHistory, KeptTrial, TrialAnswer } from '../answers/families'
import { ProfileFault } from '../answers/parts/family'
import { FamilyProfile, KnownRelease, checkFamily, readFamily, readReleases } from '@bench-wake/core/family'
import { hexOf, Problem } from '@bench-wake/core/kernel'
import { tryable } from '@bench-wake/core/link'
import { gives, givesFile } from './gives'
import * as v from 'valibot'
import { Hono } from 'hono'
import Papa from 'papaparse'
import type { Services } from '../app'
import { addFamily, getFamilyDocument, getFamilyHistory, listFamilies } from '../store/families'
import { triedOf } from '../store/script-tried'
import { renewStandIns } from '../store/stand-ins'
import { openDocument, text, valid } from './validate'

export const families = ({ db, shelf, runs, room }: Services) =>
  new Hono()
    .get('/', gives(v.array(FamilyProfile)), async (c) =>
      c.json((await listFamilies(db)).map(({ document }) => document)),
    )
    .post(
      '/',
      gives(v.object({ id: v.string(), revision: v.number() }), 201),
      valid('json', openDocument),
      async (c) => {
        const family = await addFamily(db, c.req.valid('json'))
        // Every image is looked at anew: the profile may claim some of them.
        shelf.forget()
        await renewStandIns(db, room, family)
        return c.json({ id: family.id, revision: family.revision }, 201)
      },
    )
    .post('/check', gives(v.object({ faults: v.array(ProfileFault) })), valid('json', openDocument), (c) =>
      c.json({ faults: checkFamily(c.req.valid('json')).faults }),
    )
    // A list of releases is only read here: it is kept with the next revision of the profile.
    .post(
      '/releases',
      gives(
        v.object({
          releases: v.array(KnownRelease),
          faults: v.array(v.object({ row: v.number(), says: v.string() })),
        }),
      ),
      valid('json', v.object({ text: v.pipe(v.string(), v.maxLength(900_000)) })),
      (c) => c.json(readReleases(rowsIn(c.req.valid('json').text))),
    )
    // A profile need not be kept to be tried: what is tried is what stands on the page.
    .post(
      '/try',
      gives(TrialAnswer),
      valid(
        'json',
        v.object({
          document: openDocument,
          linkId: text(80),
          operation: v.picklist(tryable),
          port: text(),
          /** Rules that a person answers for at this very trial. */
          looked: v.optional(v.pipe(v.array(text(80)), v.maxLength(20)), []),
        }),
      ),
      async (c) => {
        const { document, linkId, operation, port, looked } = c.req.valid('json')
        const family = readFamily(document)
        await runs.readiness.refuseShutLink(port, family, null, { looked })
        const { bytes, events, ...rest } = await room.readings.tryOperation(port, family, linkId, operation)
        return c.json({
          ...rest,
          events: events.map(({ sent, heard, ...event }) => ({
            ...event,
            ...(sent ? { sent: hexOf(sent) } : {}),
            ...(heard ? { heard: hexOf(heard) } : {}),
          })),
          ...(bytes ? { bytes: hexOf(bytes) } : {}),
        })
      },
    )
    .get('/:id', gives(FamilyHistory), async (c) => c.json(await getFamilyHistory(db, c.req.param('id'))))
    .get('/:id/trials', gives(v.array(KeptTrial)), async (c) =>
      c.json(await triedOf(db, { id: c.req.param('id') })),
    )
    .get(
      '/:id/releases',
      givesFile('The releases that the profile knows, as a table', 'text/csv'),
      async (c) => {
        const { releases = [] } = await getFamilyDocument(db, c.req.param('id'))
        const fields = ['version', 'component', 'hardware', 'date', 'sha256', 'notes']
        return c.body(Papa.unparse({ fields, data: releases }, { escapeFormulae: true }), 200, {
          'content-type': 'text/csv; charset=utf-8',
          'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(c.req.param('id'))}-releases.csv`,
        })
      },
    )
    .get('/:id/:revision{[0-9]+}', gives(FamilyProfile), async (c) =>
      c.json(await getFamilyDocument(db, c.req.param('id'), Number(c.req.param('revision')))),
    )

/**
 * Rows of a list of releases: a JSON list, or a table with a heading in any dialect of CSV.
 * @throws Problem `input` for a text that is neither.
 */
function rowsIn(text: string): unknown[] {
  const refused = (says: string, found: string) =>
    new Problem({
      kind: 'input',
      place: { at: 'text' },
      says,
      found,
      remedy: 'Send a JSON list of releases, or a table with the columns version and sha256.',
    })
  if (/^\s*[[{]/.test(text)) {
    try {
      const read: unknown = JSON.parse(text)
      const list = Array.isArray(read) ? read : (read as { releases?: unknown }).releases
      if (Array.isArray(list)) return list
    } catch (error) {
      throw refused('this is no JSON', (error as Error).message)
    }
    throw refused('this JSON is no list of releases', text.trim().slice(0, 60))
  }
  const { data, meta } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: 'greedy' })
  if ((meta.fields ?? []).length < 2)
    throw refused('this is no table with a heading', text.trim().slice(0, 60))
  return data
}
