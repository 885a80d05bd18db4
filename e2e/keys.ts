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
  await control.press(key, within(withinMs))
}

/** Chooses in a list by typing what the choice says. */
export async function chooseByKeys(list: Locator, says: string): Promise<void> {
  await expect(list.locator('option', { hasText: says })).toHaveCount(1)
  // Keys that come too slowly for the list begin a new word: on a busy machine it is typed once more.
  await expect(async () => {
    await list.focus()
    await list.pressSequentially(says)
    await expect(list.locator('option:checked')).toContainText(says, { timeout: 500 })
  }).toPass({ intervals: [1500] })
}
