import { setTimeout } from 'node:timers/promises'
import { expect, test } from './program'

/** Opens the search box and types into it. */
async function search(page: import('@playwright/test').Page, words: string) {
  await page.keyboard.press('Control+k')
  const box = page.getByRole('combobox', { name: /Find a unit/ })
  await expect(box).toBeFocused()
  await box.fill(words)
  return page.getByRole('listbox', { name: 'Found' }).getByRole('option')
}

test('everything is found by typing, and what was used last stands first', async ({ page, shared }) => {
  await page.goto(`${shared.address}/`)
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  for (const [words, kind, leads] of [
    ['calculator drop in a lead', 'Calculator', /\/sums/],
    ['place slip shed', 'Place', /\/units\?find=Slip\+shed$/],
    ['record fog', 'Record', /\/logbook\/[^/]+$/],
    ['family fog', 'Family', /\/families\/fog-signal$/],
    ['workshop rules', 'Go', /\/workshop-rules$/],
  ] as const) {
    const found = await search(page, words)
    await expect(found.first()).toContainText(kind)
    await page.keyboard.press('Enter')
    await expect(page).toHaveURL(leads)
  }
  // Newest first, before anything is typed.
  const found = await search(page, '')
  await expect(found.nth(0)).toContainText('Workshop rules')
  await expect(found.nth(1)).toContainText('Family')
  await expect(found.nth(2)).toContainText('Record')
  await expect(found.nth(3)).toContainText('Slip shed')
  await expect(found.nth(4)).toContainText('Drop in a lead')
  await page.keyboard.press('Escape')
  await expect(found).toHaveCount(0)
  // A place leads to the units there, and to no other.
  await page.goto(`${shared.address}/units?find=Slip+shed`)
  await expect(page.locator('tr.leads').first()).toBeVisible()
  for (const row of await page.locator('tr.leads').all()) await expect(row).toContainText('Slip shed')
})

test('the question mark shows the keys of the screen one is on, but not while one types', async ({
  page,
  shared,
}) => {
  const keys = page.getByRole('dialog', { name: 'Keys' })
  await page.goto(`${shared.address}/shelf/fits`)
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.keyboard.press('?')
  await expect(keys).toContainText('On Fits')
  await expect(keys).toContainText('From cell to cell')
  await expect(keys).toContainText('Ctrl K')
  await page.keyboard.press('Escape')
  await expect(keys).toHaveCount(0)
  await page.goto(`${shared.address}/who`)
  await page.getByLabel('Your name').fill('')
  await page.getByLabel('Your name').press('?')
  await expect(page.getByLabel('Your name')).toHaveValue('?')
  await expect(keys).toHaveCount(0)
  const found = await search(page, 'keys of this screen')
  await found.first().click()
  await expect(keys).toContainText('Everywhere')
})

test('a long screen that is come back to stands where it was left', async ({ page, shared }) => {
  await page.goto(`${shared.address}/shelf`)
  const rows = page.locator('tr.leads')
  await expect(rows.nth(40)).toBeAttached()
  await rows.nth(40).scrollIntoViewIfNeeded()
  const at = await page.evaluate(() => scrollY)
  expect(at).toBeGreaterThan(500)
  await rows.nth(40).getByRole('link').first().click()
  await expect(page).toHaveURL(/\/shelf\/[^/]+$/)
  await expect.poll(() => page.evaluate(() => scrollY)).toBe(0)
  // On a device so slow that it fills for many seconds.
  const devtools = await page.context().newCDPSession(page)
  await devtools.send('Emulation.setCPUThrottlingRate', { rate: 12 })
  await page.goBack()
  await expect(rows.nth(40)).toBeAttached()
  await expect.poll(() => page.evaluate(() => scrollY)).toBe(at)
  await page.mouse.wheel(0, -300)
  await expect.poll(() => page.evaluate(() => scrollY)).toBe(at - 300)
  // Who has begun to scroll meanwhile is left where they are.
  await page.goForward()
  await expect.poll(() => page.evaluate(() => scrollY)).toBe(0)
  await page.goBack()
  await expect(rows.nth(4)).toBeAttached()
  await page.mouse.wheel(0, 100)
  await expect(rows.nth(40)).toBeAttached()
  await setTimeout(1000)
  // Below where it was left, or 100 past it where it stood there already as the wheel turned; taken back it would be there.
  expect(await page.evaluate(() => scrollY)).not.toBe(at - 300)
})

test('a program that is gone is told at once, keeps what was typed, and is read again when it is back', async ({
  page,
  program,
}) => {
  // What tests before it opened is in the profile still; here nothing is to be known before it is asked for.
  const devtools = await page.context().newCDPSession(page)
  await devtools.send('Network.clearBrowserCache')
  await page.goto(`${program.address}/logbook`)
  await expect(page.locator('tr.leads').first()).toBeVisible()
  await page.getByRole('link', { name: 'Units' }).click()
  await page.getByRole('button', { name: 'Add a unit' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Lock gate, north leaf')
  await program.end('SIGKILL')
  const gone = page.getByRole('alert').filter({ hasText: 'Bench Wake does not answer.' })
  await expect(gone).toBeVisible()
  // A screen whose file was never asked for cannot be opened: the one that is there stays.
  await page.getByRole('link', { name: 'Drill' }).click()
  await expect(page.getByRole('textbox', { name: 'Name' })).toHaveValue('Lock gate, north leaf')
  // One that opens says so in its own place, and fills by itself.
  await page.getByRole('link', { name: 'Logbook' }).click()
  const problem = page.locator('main').getByRole('alert')
  await expect(problem).toContainText('does not answer')
  await program.start()
  await expect(page.getByRole('status').filter({ hasText: 'answers again' })).toBeVisible()
  await expect(gone).toHaveCount(0)
  await expect(page.locator('tr.leads').first()).toBeVisible()
  await expect(problem).toHaveCount(0)
  await page.getByRole('link', { name: 'Drill' }).click()
  await expect(page.getByRole('heading', { level: 1, name: /Drill/ })).toBeVisible()
})
