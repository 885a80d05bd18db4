import { usualWorkshopRules, type WorkshopRules } from '@bench-wake/core/fit'
import { desc } from 'drizzle-orm'
import type { Database } from '../db/open'
import { workshopPolicies } from '../db/schema'

export interface KeptPolicy extends WorkshopRules {
  /** Who set it; absent while it is the usual one. */
  by?: string
  at?: number
}

/** How this workshop works now (PRACTICE A7, B5). */
export async function getWorkshopRules(db: Database): Promise<KeptPolicy> {
  const [row] = await db.select().from(workshopPolicies).orderBy(desc(workshopPolicies.id)).limit(1)
  return row ? { ...usualWorkshopRules, ...row.policy, by: row.by, at: row.at } : usualWorkshopRules
}

export async function setWorkshopRules(db: Database, policy: WorkshopRules, by: string): Promise<void> {
  await db.insert(workshopPolicies).values({ policy, by, at: Date.now() })
}
