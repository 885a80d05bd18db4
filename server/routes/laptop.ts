import { LaptopSay } from '@bench-wake/core/ready'
import { Hono } from 'hono'
import type { Services } from '../app'
import { sayLaptop } from '../store/laptop'
import { valid } from './validate'

export const laptop = ({ db, runner }: Services) =>
  new Hono()
    .get('/', async (c) => c.json(await runner.laptop()))
    .put('/', valid('json', LaptopSay), async (c) => {
      await sayLaptop(db, c.req.valid('json'))
      return c.json(await runner.laptop())
    })
