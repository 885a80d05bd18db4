import { LaptopSay } from '@bench-wake/core/ready'
import { Gate, KitEntry } from './parts/ready'
import * as v from 'valibot'

export const KitOfDay = v.object({
  day: v.string(),
  jobs: v.array(v.object({ id: v.string(), unit: v.string(), place: v.string() })),
  items: v.array(KitEntry),
})

export const Laptop = v.object({ say: v.nullable(LaptopSay), gate: Gate })
