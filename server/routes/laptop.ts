import { Laptop } from '../answers/kit'
import { LaptopSay } from '@bench-wake/core/ready'
import { gives } from './gives'
import { Hono } from 'hono'
import type { Services } from '../app'
import { sayLaptop } from '../store/laptop'
import { valid } from './validate'

export const laptop = ({ db, runs }: Services) =>
  new Hono()
    .get('/', gives(Laptop), async (c) => c.json(await runs.laptop()))
    .put('/', gives(Laptop), valid('json', LaptopSay), async (c) => {
      await sayLaptop(db, c.req.valid('json'))
      return c.json(await runs.laptop())
    })
