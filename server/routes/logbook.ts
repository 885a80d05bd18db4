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
import { listRuns } from '../store/runs'
import { valid } from './validate'

const query = v.object({ q: v.optional(v.pipe(v.string(), v.maxLength(400)), '') })

export const logbook = ({ db }: Services) =>
  new Hono()
    .get('/', gives(v.array(LogbookRowShape)), valid('query', query), async (c) =>
      c.json(await search(db, c.req.valid('query').q)),
    )
    .get('/refusals', gives(v.array(Refusal)), async (c) => c.json(await listRefusals(db)))
    .get(
      '/export',
      givesFile('The logbook as a file', 'text/csv', 'application/json'),
      valid('query', v.object({ ...query.entries, format: v.optional(v.picklist(['csv', 'json']), 'csv') })),
      async (c) => {
        const { q, format } = c.req.valid('query')
        const rows = (await search(db, q)).map(({ strip: _, ...row }) => ({
          ...row,
          startedAt: new Date(row.startedAt).toISOString(),
        }))
        const head = (type: string) => ({
          'content-type': type,
          'content-disposition': `attachment; filename="logbook.${format}"`,
        })
        if (format === 'json') return c.body(JSON.stringify(rows, null, 2), 200, head('application/json'))
        // A cell that begins like a formula is defused for spreadsheets (papaparse, escapeFormulae).
        return c.body(Papa.unparse(rows, { escapeFormulae: true }), 200, head('text/csv; charset=utf-8'))
      },
    )

async function search(db: Database, q: string): Promise<LogbookRow[]> {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean)
  const rows = (await listRuns(db))
    .map(({ state }) => logbookRow(state))
    .sort((a, b) => b.startedAt - a.startedAt)
  return rows.filter((row) => {
    const { strip: _, ...facts } = row
    const text = Object.values(facts).join(' ').toLowerCase()
    return words.every((word) => text.includes(word))
  })
}
