import { SumAnswer, SumField } from '../answers/parts/ready'
import { gives } from './gives'
import { Problem } from '@bench-wake/core/kernel'
import { sums as catalogue, workSum } from '@bench-wake/core/ready'
import { blockCount, xmodemWireMs } from '@bench-wake/core/link'
import { Hono } from 'hono'
import * as v from 'valibot'
import { openDocument, valid } from './validate'

const wireTime = v.object({
  bytes: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(0x1_0000_0000)),
  blockBytes: v.optional(v.picklist([128, 1024]), 1024),
  baudRate: v.pipe(v.number(), v.integer(), v.minValue(50), v.maxValue(12_000_000)),
})

/** Every calculator by its name: the same functions that the gates use. */
const sums: Record<string, (input: unknown) => Record<string, number>> = {
  'wire-time': (input) => {
    const { bytes, blockBytes, baudRate } = v.parse(wireTime, input)
    const ms = xmodemWireMs(bytes, blockBytes, { baudRate, dataBits: 8, parity: 'none', stopBits: 1 })
    const { large, small } = blockCount(bytes, blockBytes)
    return { wireMs: ms, largeBlocks: large, smallBlocks: small, bytesPerSecond: (bytes * 1000) / ms }
  },
}

const figures = v.record(
  v.string(),
  v.union([v.pipe(v.string(), v.maxLength(200)), v.pipe(v.number(), v.finite())]),
)

export const sumRoutes = () =>
  new Hono()
    .get(
      '/',
      gives(
        v.array(
          v.object({ id: v.string(), name: v.string(), source: v.string(), fields: v.array(SumField) }),
        ),
      ),
      (c) => c.json(catalogue.map(({ work: _, ...sum }) => sum)),
    )
    .post(
      '/:name',
      gives(v.union([v.record(v.string(), v.number()), SumAnswer])),
      valid('json', openDocument),
      (c) => {
        const name = c.req.param('name')
        const form = c.req.valid('json')
        const listed = catalogue.find(({ id }) => id === name)
        const own = Object.hasOwn(sums, name) ? sums[name] : undefined
        if (!listed && !own) {
          throw new Problem({
            kind: 'not-found',
            thing: name,
            says: 'there is no such sum',
            expected: [...Object.keys(sums), ...catalogue.map(({ id }) => id)].join(', '),
            remedy: 'Take one of these.',
          })
        }
        try {
          return c.json(listed ? workSum(listed, v.parse(figures, form)) : own!(form))
        } catch (error) {
          if (!v.isValiError(error)) throw error
          const issue = error.issues[0]
          throw new Problem({
            kind: 'input',
            place: { at: v.getDotPath(issue) ?? name },
            says: issue.message,
            found: issue.received,
            remedy: 'Mend this field and send it again.',
          })
        }
      },
    )
