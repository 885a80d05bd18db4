import { logbookRow } from '@bench-wake/core/record'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { getFamily } from '../store/families'
import { listRuns } from '../store/runs'
import { addSnapshot, addUnit, getUnit, listUnits, refuseOtherUnit } from '../store/units'
import { text, valid } from './validate'

const snapshotForm = v.union([
  v.object({ port: text() }),
  v.object({
    source: v.picklist(['menu', 'boot-screen', 'label', 'app']),
    lines: v.pipe(v.array(v.object({ field: text(80), label: text(80), value: text() })), v.minLength(1)),
  }),
])

export const units = ({ db, runner }: Services) =>
  new Hono()
    .get('/', async (c) => c.json(await listUnits(db)))
    .post(
      '/',
      valid('json', v.object({ familyId: text(80), name: text(), place: text(), serial: text(80) })),
      async (c) => c.json(await addUnit(db, c.req.valid('json')), 201),
    )
    .get('/:id', async (c) => {
      const unit = await getUnit(db, c.req.param('id'))
      const runs = (await listRuns(db)).filter(({ state }) => state.facts.unit.id === unit.id)
      return c.json({ ...unit, runs: runs.map(({ state }) => logbookRow(state)) })
    })
    .post('/:id/snapshots', valid('json', snapshotForm), async (c) => {
      const unit = await getUnit(db, c.req.param('id'))
      const form = c.req.valid('json')
      const snapshot =
        'port' in form
          ? await runner.read(form.port, await getFamily(db, unit.familyId))
          : { at: Date.now(), source: form.source, lines: form.lines }
      refuseOtherUnit(unit, snapshot)
      await addSnapshot(db, unit.id, snapshot)
      return c.json(snapshot, 201)
    })
