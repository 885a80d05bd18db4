import { helps } from '@bench-wake/core/entry'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { drills as table } from '../db/schema'
import { text, valid } from './validate'

const amount = (most: number) => v.pipe(v.number(), v.minValue(0), v.maxValue(most))

/** What was practised, by whom, and what it came to. A drill touches no port. */
export const drills = ({ db }: Services) =>
  new Hono()
    .get('/', async (c) => {
      const rows = await db.select().from(table).orderBy(table.at)
      return c.json(rows.map(({ id: _, ...practice }) => practice))
    })
    .post(
      '/',
      valid(
        'json',
        v.object({
          exerciseId: text(120),
          by: text(80),
          help: v.picklist(helps),
          unsafe: amount(1000),
          wrong: amount(1000),
          tookMs: amount(1e9),
          score: amount(100),
        }),
      ),
      async (c) => {
        const practice = { ...c.req.valid('json'), at: Date.now() }
        await db.insert(table).values(practice)
        return c.json(practice, 201)
      },
    )
