import { LogbookRow as LogbookRowShape } from '../answers/parts/record'
import { Refusal } from '../answers/logbook'
import { gives, givesFile } from './gives'
import { logbookRow, type LogbookRow } from '@bench-wake/core/record'
import { Hono } from 'hono'
import Papa from 'papaparse'
import * as v from 'valibot'
import type { Services } from '../app'
import type { Database } from '../db/open'
import { listRefusals } from '../store/refusals'
import { nextTurn } from '../host-time'
import { notFound } from '../problem'
import { headsByStart } from '../store/run-summaries'
import { runsAt } from '../store/runs'
import { linkNext, page, valid } from './validate'

const words = v.optional(v.pipe(v.string(), v.maxLength(400)), '')
const query = v.object({ ...page.entries, q: words })

export const logbook = ({ db }: Services) =>
  new Hono()
    .get('/', gives(v.array(LogbookRowShape)), valid('query', query), async (c) => {
      const { q, after, count = logbookRows } = c.req.valid('query')
      const rows: LogbookRow[] = []
      for await (const some of found(db, q, after)) {
        rows.push(...some)
        if (rows.length >= count) break
      }
      linkNext(c, rows.length, count, rows[count - 1]?.runId)
      return c.json(rows.slice(0, count))
    })
    .get('/refusals', gives(v.array(Refusal)), async (c) => c.json(await listRefusals(db)))
    .get(
      '/export',
      givesFile('The logbook as a file', 'text/csv', 'application/json'),
      valid('query', v.object({ q: words, format: v.optional(v.picklist(['csv', 'json']), 'csv') })),
      async (c) => {
        const { q, format } = c.req.valid('query')
        const rows: object[] = []
        for await (const some of found(db, q))
          rows.push(
            ...some.map(({ strip: _, ...row }) => ({
              ...row,
              startedAt: new Date(row.startedAt).toISOString(),
            })),
          )
        const head = (type: string) => ({
          'content-type': type,
          'content-disposition': `attachment; filename="logbook.${format}"`,
        })
        if (format === 'json') return c.body(JSON.stringify(rows, null, 2), 200, head('application/json'))
        // A cell that begins like a formula is defused for spreadsheets (papaparse, escapeFormulae).
        return c.body(Papa.unparse(rows, { escapeFormulae: true }), 200, head('text/csv; charset=utf-8'))
      },
    )

/** Rows of a page where no number is asked for. */
const logbookRows = 200
/** Runs that are looked at in one go. */
const atOnce = 50

/** Runs that hold all words, newest first, some at a time. @param after begins behind this run. */
async function* found(db: Database, q: string, after?: string): AsyncGenerator<LogbookRow[]> {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean)
  const heads = await headsByStart(db)
  const from = after === undefined ? 0 : heads.findIndex(({ id }) => id === after) + 1
  if (after !== undefined && from === 0) throw notFound('run', after)
  for (let at = from; at < heads.length; at += atOnce) {
    if (at > from) await nextTurn()
    const rows = (await runsAt(db, heads.slice(at, at + atOnce))).map(({ state }) => logbookRow(state))
    yield rows.filter((row) => {
      const { strip: _, ...facts } = row
      const text = Object.values(facts).join(' ').toLowerCase()
      return words.every((word) => text.includes(word))
    })
  }
}
