import { BackupFile, DamagedRow, DataState } from '../answers/data'
import { Done, gives } from './gives'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { damagedRow, dropDamaged, putBack } from '../data-folder/damage'
import { idIn } from './ids'
import { text, valid } from './validate'

/** The data of this bench: backups, and rows that could not be read. */
export const data = ({ db, dataKeeper, shelf }: Services) =>
  new Hono()
    .get('/', gives(DataState), async (c) => c.json(await dataKeeper.state()))
    .post('/backups', gives(BackupFile, 201), async (c) => c.json(await dataKeeper.backUp(), 201))
    .post(
      '/restore',
      gives(Done, 202),
      valid('json', v.object({ name: text(200), despiteDamage: v.optional(v.boolean(), false) })),
      async (c) => {
        const { name, despiteDamage } = c.req.valid('json')
        await dataKeeper.restore(name, despiteDamage)
        return c.json({ ok: true }, 202)
      },
    )
    .get('/damage/:id', gives(DamagedRow), async (c) => {
      const row = await damagedRow(db, idIn(c.req.param('id')))
      return c.json(row, 200, { 'content-disposition': 'attachment; filename="row.json"' })
    })
    .post(
      '/damage/:id/put-back',
      gives(DataState),
      valid(
        'json',
        v.object({
          mended: v.pipe(v.record(text(80), v.pipe(v.string(), v.maxLength(1_000_000))), v.maxEntries(40)),
        }),
      ),
      async (c) => {
        await putBack(db, idIn(c.req.param('id')), c.req.valid('json').mended)
        shelf.forget()
        return c.json(await dataKeeper.state())
      },
    )
    .delete('/damage/:id', gives(DataState), async (c) => {
      await dropDamaged(db, idIn(c.req.param('id')))
      return c.json(await dataKeeper.state())
    })
