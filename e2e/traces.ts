import type { Page } from '@playwright/test'
import { firstUnitOf } from '@bench-wake/demo'
import { expect, type Program } from './program'

/** What a whole write over a family's own link reads like: rows that stand in its standard. */
export const traces: Record<string, { filter: string; trace: RegExp }> = {
  'buoy-battery': { filter: 'record 0,', trace: /write file records, file 1, record 0/ },
  'beacon-receiver': { filter: 'DPIDR', trace: /read DPIDR/ },
}

/** The trace of the last run of a family's first unit, looked up by its filter. */
export async function expectTrace(page: Page, program: Program, familyId: string): Promise<void> {
  const { filter, trace } = traces[familyId]!
  await page.goto(`${program.address}/trace?port=stand-in:${firstUnitOf(familyId).id}`)
  await page.getByLabel('Follow the end').uncheck()
  const rows = page.getByRole('region', { name: 'Rows of the trace' })
  await expect(rows.locator('button').first()).toBeVisible()
  await page.getByLabel('Filter').fill(filter)
  await expect(rows).toContainText(trace)
}
