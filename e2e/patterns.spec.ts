import { setTimeout } from 'node:timers/promises'
import type { Locator, Page } from '@playwright/test'
import { expect, test } from './program'

/*
 * Source: W3C, ARIA Authoring Practices Guide, the keyboard paths of each composite that the screens use: combobox, radio
 * group, checkbox, spinbutton, dialog, alert dialog, disclosure, tooltip. The grid stands in shelf.spec.ts, the switch in
 * chip.spec.ts.
 */
const has = (locator: Locator) => expect(locator).toBeFocused()
/** Whether the focus lies within. */
const holds = (page: Page, within: string) =>
  page.evaluate((selector) => document.activeElement?.closest(selector) !== null, within)

test('combobox: Enter or an arrow opens, arrows choose, Enter takes, Escape leaves it as it was', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/who`)
  const box = page.getByRole('combobox', { name: 'Temperature' })
  await box.focus()
  await expect(box).toHaveAttribute('aria-expanded', 'false')
  await page.keyboard.press('Enter')
  await expect(box).toHaveAttribute('aria-expanded', 'true')
  await has(box)
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(box).toHaveAttribute('aria-expanded', 'false')
  await expect(box).toContainText('°F')
  await has(box)
  await page.keyboard.press('ArrowDown')
  await expect(box).toHaveAttribute('aria-expanded', 'true')
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('Escape')
  await expect(box).toHaveAttribute('aria-expanded', 'false')
  await expect(box).toContainText('°F')
  await has(box)
})

test('combobox with what is typed: it filters, arrows choose, Enter goes there, Escape closes and gives the focus back', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/units`)
  const opener = page.getByRole('button', { name: /Search or run a command/ })
  await opener.focus()
  await page.keyboard.press('Enter')
  const box = page.getByRole('combobox', { name: /^Find a unit/ })
  await has(box)
  await page.keyboard.press('Escape')
  await expect(box).toHaveCount(0)
  await has(opener)
  await page.keyboard.press('Enter')
  await page.keyboard.type('logbook')
  await expect(page.getByRole('option', { selected: true })).toContainText('Logbook')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('ArrowUp')
  await has(box)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { level: 1, name: 'Logbook' })).toBeVisible()
})

test('combobox: what was gone down to stays when the list is read again, and a list that has just changed takes no Enter', async ({
  page,
  shared,
}) => {
  // The serial ports of a computer come and go while a person looks for theirs.
  let less = false
  await page.route('**/api/ports', async (route) => {
    const answer = await route.fetch()
    const ports = (await answer.json()) as { id: string }[]
    await route.fulfill({ response: answer, json: less ? ports.slice(1) : ports })
  })
  await page.goto(`${shared.address}/jobs/job-fog-07`)
  const box = page.getByRole('combobox', { name: 'Port' })
  await box.focus()
  await page.keyboard.press('Enter')
  const pending = page.locator('.n-base-select-option--pending')
  await expect(pending).toBeVisible()
  for (let down = 0; down < 3; down++) await page.keyboard.press('ArrowDown')
  const chosen = await pending.innerText()
  await page.waitForResponse('**/api/ports')
  await setTimeout(500)
  await expect(pending).toHaveText(chosen)
  // Enter comes in the moment in which a row is gone.
  const before = await box.innerText()
  const pressed = box.evaluate(
    (input) =>
      new Promise<void>((done) => {
        const menu = document.querySelector('.n-base-select-menu')!
        const rows = () => menu.querySelectorAll('.n-base-select-option').length
        const count = rows()
        new MutationObserver((_, observer) => {
          if (rows() === count) return
          observer.disconnect()
          input.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }))
          done()
        }).observe(menu, { childList: true, subtree: true })
      }),
  )
  less = true
  await pressed
  await setTimeout(500)
  await expect(page.locator('.n-base-select-menu:visible')).toHaveCount(1)
  expect(await box.innerText()).toBe(before)
  await page.keyboard.press('Escape')
  await page.unrouteAll({ behavior: 'wait' })
})

test('radio group: one stop for Tab, arrows choose within', async ({ page, shared }) => {
  await page.goto(`${shared.address}/workshop-rules`)
  const first = page.getByRole('radio', { name: /Only to cure something/ })
  const second = page.getByRole('radio', { name: /To keep everything current/ })
  await first.focus()
  await page.keyboard.press('ArrowDown')
  await has(second)
  await expect(second).toBeChecked()
  await page.keyboard.press('ArrowUp')
  await has(first)
  await expect(first).toBeChecked()
  await page.keyboard.press('Tab')
  await has(page.getByRole('radio', { name: /Every release in order/ }))
})

test('checkbox: Space turns it', async ({ page, program }) => {
  await page.goto(`${program.address}/ports`)
  const cable = page.getByRole('checkbox', { name: 'Fog signal 02' })
  await cable.focus()
  // On a program that is slow to answer, a second press is done as well.
  await page.route('**/api/ports/cables', async (route) => {
    if (route.request().method() === 'PUT') await setTimeout(1500)
    await route.continue()
  })
  await page.keyboard.press('Space')
  await expect(cable).not.toBeChecked()
  const both = page.waitForResponse(
    (answer) => answer.request().postDataJSON()?.joined === true && answer.url().endsWith('/ports/cables'),
  )
  await page.keyboard.press('Space')
  await expect(cable).toBeChecked()
  await has(cable)
  await both
  await expect(cable).toBeChecked()
  await page.unrouteAll({ behavior: 'wait' })
})

test('dialog: it takes the focus, keeps it, Escape closes it, and the focus goes back', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/jobs/job-fog-07`)
  const opener = page.getByRole('button', { name: 'Another day' })
  await opener.focus()
  await page.keyboard.press('Enter')
  const dialog = page.getByRole('dialog')
  await expect(dialog).toBeVisible()
  await expect.poll(() => holds(page, '[role=dialog]')).toBe(true)
  for (let press = 0; press < 12; press++) {
    await page.keyboard.press(press < 8 ? 'Tab' : 'Shift+Tab')
    expect(await holds(page, '[role=dialog]')).toBe(true)
  }
  await page.keyboard.press('Escape')
  await expect(dialog).toHaveCount(0)
  await has(opener)
})

test('what a person took in hand keeps the focus while the job is still read', async ({ page, shared }) => {
  await page.route('**/api/jobs/*/ready*', async (route) => {
    await setTimeout(1500)
    await route.continue()
  })
  await page.goto(`${shared.address}/jobs/job-fog-07`)
  const judged = page.waitForResponse(/\/ready/)
  const opener = page.getByRole('button', { name: 'Another day' })
  await opener.focus()
  await judged
  // What the screen says next has come, and would have taken it.
  await expect(page.locator('.deck [data-primary]')).toBeVisible()
  await setTimeout(300)
  await has(opener)
  await page.unrouteAll({ behavior: 'wait' })
})

test('alert dialog: the focus begins at what does nothing, Tab stays within, Escape goes back', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/families/teach`)
  const opener = page.getByRole('button', { name: 'Start over' })
  await opener.focus()
  await page.keyboard.press('Enter')
  const asks = page.getByRole('alertdialog', { name: /What was taught so far is put aside/ })
  await has(asks.getByRole('button', { name: 'Cancel' }))
  await page.keyboard.press('Tab')
  await has(asks.getByRole('button', { name: 'Confirm' }))
  await page.keyboard.press('Tab')
  await has(asks.getByRole('button', { name: 'Cancel' }))
  await page.keyboard.press('Shift+Tab')
  await has(asks.getByRole('button', { name: 'Confirm' }))
  await page.keyboard.press('Escape')
  await expect(asks).toHaveCount(0)
  await has(opener)
})

test('tooltip: it comes with the focus too, and Escape takes it away', async ({ page, shared }) => {
  await page.goto(`${shared.address}/units`)
  await page.getByRole('button', { name: /^Sound is on/ }).focus()
  const tip = page.locator('.n-tooltip')
  await expect(tip).toHaveText('Mute')
  await page.keyboard.press('Escape')
  await expect(tip).toHaveCount(0)
  // Long words stand whole on a phone too.
  await page.setViewportSize({ width: 390, height: 844 })
  await page.goto(`${shared.address}/units/battery-14`)
  await page.locator('[data-track] [role=img]').first().hover()
  await expect(tip).toContainText('Version 31.07')
  const { x, width } = (await tip.boundingBox())!
  expect(x).toBeGreaterThanOrEqual(0)
  expect(x + width).toBeLessThanOrEqual(390)
  await page.keyboard.press('Escape')
  await expect(tip).toHaveCount(0)
})

test('disclosure: Enter and Space open and close it', async ({ page, shared }) => {
  await page.goto(`${shared.address}/units/launch-3`)
  const fold = page.locator('summary').first()
  await fold.focus()
  const open = () => fold.evaluate((summary) => (summary.parentElement as HTMLDetailsElement).open)
  expect(await open()).toBe(false)
  await page.keyboard.press('Enter')
  expect(await open()).toBe(true)
  await page.keyboard.press('Space')
  expect(await open()).toBe(false)
})

test('spinbutton: arrows step it, what is typed counts', async ({ page, shared }) => {
  await page.goto(`${shared.address}/units/launch-1`)
  await page.getByRole('link', { name: 'Begin rounds with a calibrator' }).click()
  const field = page.getByLabel('Supply must stay above')
  await field.fill('11.5')
  await page.keyboard.press('ArrowUp')
  await expect(field).toHaveValue('12.5')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('ArrowDown')
  await expect(field).toHaveValue('10.5')
  await has(field)
})
