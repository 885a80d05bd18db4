import { ImageTables, ListedDefinition } from '../answers/cases'
import { gives, Done } from './gives'
import { Problem } from '@bench-wake/core/kernel'
import { definitionFromRows, type DefinitionHead } from '@bench-wake/core/rounds'
import { Hono } from 'hono'
import Papa from 'papaparse'
import * as v from 'valibot'
import type { Services } from '../app'
import { tablesAnswer } from '../rounds/round-changes'
import {
  addDefinition,
  definitionDocument,
  getDefinition,
  listDefinitions,
  removeDefinition,
} from '../store/definitions'
import { openDocument, text, valid } from './validate'

const hex = v.pipe(v.string(), v.regex(/^0x[0-9A-Fa-f]{1,8}$/, 'Write it as hexadecimal: "0x0001F000"'))

export const definitions = ({ db, shelf }: Services) =>
  new Hono()
    .get('/', gives(v.array(ListedDefinition)), async (c) => c.json(await listDefinitions(db)))
    .post('/', gives(ListedDefinition, 201), valid('json', openDocument), async (c) =>
      c.json(await addDefinition(db, c.req.valid('json')), 201),
    )
    .post(
      '/from-list',
      gives(ListedDefinition, 201),
      valid(
        'json',
        v.object({
          list: text(900_000),
          name: text(120),
          signature: v.object({ address: hex, ascii: text(64) }),
          regions: v.pipe(
            v.array(
              v.object({
                use: v.picklist(['calibration', 'label', 'checksum']),
                address: hex,
                length: hex,
              }),
            ),
            v.minLength(1),
            v.maxLength(64),
          ),
        }),
      ),
      async (c) => {
        const { list, ...head } = c.req.valid('json')
        return c.json(
          await addDefinition(db, definitionFromRows(rowsOf(list), head satisfies DefinitionHead)),
          201,
        )
      },
    )
    .get('/:id', gives(v.record(v.string(), v.unknown())), async (c) =>
      c.json({ ...(await definitionDocument(db, c.req.param('id'))) }),
    )
    .get('/:id/tables/:image', gives(ImageTables), async (c) => {
      const definition = await getDefinition(db, c.req.param('id'))
      return c.json(tablesAnswer(definition, (await shelf.open(c.req.param('image'))).memory))
    })
    .delete('/:id', gives(Done), async (c) => {
      await removeDefinition(db, c.req.param('id'))
      return c.json({ ok: true })
    })

function rowsOf(list: string): Record<string, string>[] {
  const { data, meta } = Papa.parse<Record<string, string>>(list, { header: true, skipEmptyLines: 'greedy' })
  if ((meta.fields ?? []).length >= 2) return data
  throw new Problem({
    kind: 'definition',
    place: { line: 1 },
    says: 'this is no table with a heading',
    remedy: 'The first line names the columns: name, address, type, scale, unit, x, y.',
  })
}
