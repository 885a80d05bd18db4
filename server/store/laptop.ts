import { laptopSayForMs, type LaptopSay } from '@bench-wake/core/ready'
import { desc } from 'drizzle-orm'
import type { Database } from '../db/open'
import { laptopSays } from '../db/schema'

/** What was last said of the laptop; undefined where that is another day's. */
export async function laptopNow(db: Database): Promise<LaptopSay | undefined> {
  const [row] = await db.select().from(laptopSays).orderBy(desc(laptopSays.id)).limit(1)
  return row && Date.now() - row.at < laptopSayForMs ? { ...row.say, at: row.at } : undefined
}

/** Keeps what a person says of the laptop; it holds for every job and run. */
export async function sayLaptop(db: Database, { onMains, minutesLeft, bank }: LaptopSay): Promise<void> {
  const say = { onMains, minutesLeft, ...(bank ? { bank } : {}) }
  await db.insert(laptopSays).values({ say, at: Date.now() })
}
