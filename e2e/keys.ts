import type { Locator } from '@playwright/test'
import { expect } from './program'

/** How a control is used: with the mouse, or as the keyboard reaches it. */
export type Use = (control: Locator, withinMs?: number) => Promise<void>

export const byMouse: Use = (control, withinMs) => control.click(within(withinMs))

const within = (timeout: number | undefined) => (timeout === undefined ? {} : { timeout })

/** In the order of Tab, focused, and pressed: Enter on a button or a link, Space on a box or a choice. */
export const byKeys: Use = async (control, withinMs) => {
  await expect(control).toBeEnabled(within(withinMs))
  const { reached, key } = await control.evaluate((each) => ({
    reached: (each as HTMLElement).tabIndex >= 0,
    key: each instanceof HTMLInputElement ? 'Space' : 'Enter',
  }))
  expect(reached, 'in the order of Tab').toBe(true)
  await control.press(key, within(withinMs)).catch(async (error: unknown) => {
    // Given up between down and up it is held from then on, and the next press would be a repeat.
    await control.page().keyboard.up(key)
    throw error
  })
}

/** Chooses in one of the kit's lists: opened by Enter, gone down to what the choice says, and taken by Enter. */
export async function chooseByKeys(list: Locator, says: string): Promise<void> {
  const open = list.page().locator('.n-base-select-menu:visible')
  const pending = open.locator('.n-base-select-option--pending')
  // A list that fills while it is gone through begins anew.
  await expect(async () => {
    if (!(await open.isVisible())) await list.press('Enter')
    await expect(open.locator('.n-base-select-option', { hasText: says })).toHaveCount(1, { timeout: 1000 })
    for (let left = await open.locator('.n-base-select-option').count(); left > 0; left--) {
      if ((await pending.textContent({ timeout: 1000 }))?.includes(says)) break
      await list.press('ArrowDown')
    }
    await expect(pending).toContainText(says, { timeout: 500 })
    await list.press('Enter')
    await expect(open).toBeHidden({ timeout: 2000 })
  }).toPass()
}
