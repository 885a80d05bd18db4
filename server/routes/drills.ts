import { DrillBench, DrillTold, Practice } from '../answers/drills'
import { gives } from './gives'
import { faultDrillsOf, helps, type FaultDrill } from '@bench-wake/core/entry'
import { Hono } from 'hono'
import { randomUUID } from 'node:crypto'
import * as v from 'valibot'
import type { Services } from '../app'
import { drills as table } from '../db/schema'
import { isPractice } from '@bench-wake/core/unit'
import type { Database } from '../db/open'
import { playDrill, type DrillPlay } from '../drill/acts'
import { unknownUnit, type DrillUnit } from '../drill/drill-bench'
import { notFound } from '../problem'
import { getFamily, listFamilies } from '../store/families'
import { listUnits } from '../store/units'
import { signer, text, valid } from './validate'

const amount = (max: number) => v.pipe(v.number(), v.minValue(0), v.maxValue(max))
/** Benches of drills kept at once; the one that was begun first goes first. */
const maxBenches = 12

/** A unit of the drill's family as the workshop has one; a blank one where it has none. */
async function unitLike(db: Database, { familyId }: FaultDrill): Promise<DrillUnit> {
  const own = (await listUnits(db)).find((unit) => unit.familyId === familyId && !isPractice(unit.id))
  return own ?? unknownUnit
}

/** What was practised, by whom, and what it came to; and the benches on which fault drills are played. A drill touches no port. */
export const drills = ({ db }: Services) => {
  const benches = new Map<string, { drill: FaultDrill; play: DrillPlay; turn: Promise<unknown> }>()
  return new Hono()
    .get('/', gives(v.array(Practice)), async (c) => {
      const rows = await db.select().from(table).orderBy(table.at)
      return c.json(rows.map(({ id: _, ...practice }) => practice))
    })
    .post(
      '/',
      gives(Practice, 201),
      valid(
        'json',
        v.object({
          exerciseId: text(120),
          by: signer,
          help: v.picklist(helps),
          unsafe: amount(1000),
          wrong: amount(1000),
          tookMs: amount(1e9),
          score: amount(100),
        }),
      ),
      async (c) => {
        const form = c.req.valid('json')
        const practice = { ...form, at: Date.now() }
        await db.insert(table).values(practice)
        return c.json(practice, 201)
      },
    )
    .post('/benches', gives(DrillBench, 201), valid('json', v.object({ drillId: text(80) })), async (c) => {
      const { drillId } = c.req.valid('json')
      const drill = (await listFamilies(db))
        .flatMap(({ family }) => faultDrillsOf(family))
        .find(({ id }) => id === drillId)
      if (!drill) throw notFound('fault drill', drillId)
      const play = await playDrill(await getFamily(db, drill.familyId), drill, await unitLike(db, drill))
      const id = `drill-${randomUUID()}`
      for (const old of [...benches.keys()].slice(0, Math.max(0, benches.size - maxBenches + 1))) {
        benches.delete(old)
      }
      benches.set(id, { drill, play, turn: Promise.resolve() })
      return c.json({ id, told: play.told }, 201)
    })
    .post('/benches/:id/moves', gives(DrillTold), valid('json', v.object({ move: text(80) })), async (c) => {
      const id = c.req.param('id')
      const { move } = c.req.valid('json')
      const bench = benches.get(id)
      if (!bench) throw notFound('bench of a drill', id)
      const known = bench.drill.moves.some((each) => each.id === move)
      const act = Object.hasOwn(bench.play.acts, move) ? bench.play.acts[move] : undefined
      if (!known || !act) throw notFound('move of this drill', move)
      // One move after the other, however fast they are chosen.
      const told = bench.turn.then(() => act())
      bench.turn = told.catch(() => {})
      return c.json({ told: await told, holds: bench.play.bench.holds() })
    })
}
