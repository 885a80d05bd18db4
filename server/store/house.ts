import { usualHouse, type HousePolicy } from '@bench-wake/core/fit'
import { desc } from 'drizzle-orm'
import type { Database } from '../db/open'
import { housePolicies } from '../db/schema'

export interface KeptPolicy extends HousePolicy {
  /** Who set it; absent while it is the usual one. */
  by?: string
  at?: number
}

/** How this house works now (PRACTICE A7, B5). */
export async function getHouse(db: Database): Promise<KeptPolicy> {
  const [row] = await db.select().from(housePolicies).orderBy(desc(housePolicies.id)).limit(1)
  return row ? { ...usualHouse, ...row.policy, by: row.by, at: row.at } : usualHouse
}

export async function setHouse(db: Database, policy: HousePolicy, by: string): Promise<void> {
  await db.insert(housePolicies).values({ policy, by, at: Date.now() })
}
