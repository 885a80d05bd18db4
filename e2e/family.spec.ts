import { demoFamilies } from '@bench-wake/demo'
import { readFileSync } from 'node:fs'
import { expect, pick, test } from './program'

test('a profile is changed, the fault pointed at its field, kept as a new revision and compared', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/families`)
  await page.getByRole('link', { name: 'Handheld marine radio' }).click()
  await page.getByRole('button', { name: 'Power', exact: true }).click()
  const floor = page.getByLabel('Floor volts')
  const kept = await floor.inputValue()
  await floor.fill('99')
  await expect(page.getByText('The floor must lie below the ceiling').first()).toBeVisible()
  await expect(floor).toHaveAttribute('aria-invalid', 'true')
  await expect(page.getByRole('button', { name: 'Save revision 2' })).toBeDisabled()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(floor).toHaveValue(kept)
  await floor.fill('6.6')
  await expect(page.locator('aside')).toContainText('power.floorVolts')
  await page.getByRole('button', { name: 'Save revision 2' }).click()
  await expect(page.locator('aside')).toContainText('Revision 2')
  await pick(page, 'Compare what is shown with', 'revision 1')
  await expect(page.locator('.compared')).toContainText(`${kept} → 6.6`)
})

test('a fault is found from its list; an entry is added and taken out again', async ({ page, shared }) => {
  await page.goto(`${shared.address}/families/tide-logger`)
  await page.getByRole('button', { name: 'Snapshot' }).click()
  const entries = page.locator('details.entry')
  const count = await entries.count()
  await page.getByRole('button', { name: 'Add to snapshot' }).click()
  await expect(entries).toHaveCount(count + 1)
  await expect(page.locator('aside')).toContainText('to fix')
  await page.getByRole('button', { name: 'General' }).click()
  await page.locator('aside .bare').first().click()
  await expect(page.getByRole('heading', { name: 'Snapshot' })).toBeVisible()
  await entries
    .last()
    .getByRole('button', { name: /^Remove/ })
    .click()
  await expect(page.locator('aside')).toContainText('All fields are valid.')
})

test('a profile leaves as JSON and comes back; a new family is started from it', async ({ page, shared }) => {
  await page.goto(`${shared.address}/families/mains-relay`)
  const download = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Export JSON' }).click()
  const file = await (await download).path()
  const own = demoFamilies.find(({ id }) => id === 'mains-relay')
  expect(JSON.parse(readFileSync(file, 'utf8'))).toEqual(own)

  await page
    .getByLabel('Profile file')
    .setInputFiles({ name: 'broken.json', mimeType: 'application/json', buffer: Buffer.from('{"id":') })
  await expect(page.getByRole('alert')).toContainText('broken.json is no JSON')
  await page.getByLabel('Profile file').setInputFiles({
    name: 'changed.json',
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify({ ...own, summary: 'Changed elsewhere.' })),
  })
  await expect(page.locator('aside')).toContainText('Changed elsewhere.')
  await page.getByRole('button', { name: 'Undo' }).click()

  await page.getByRole('button', { name: 'Start a new family from it' }).click()
  await expect(page).toHaveURL(/families\/new/)
  await page.locator('#field-id').fill('yard-relay')
  await page.locator('#field-name').fill('Yard relay')
  await page.getByRole('button', { name: 'Save revision 1' }).click()
  await expect(page).toHaveURL(/families\/yard-relay/)
  await page.goto(`${shared.address}/families`)
  await expect(page.getByRole('link', { name: 'Yard relay' })).toBeVisible()
})

// PRACTICE A1: the page before and after; had to change, must not, may. B7: the answer goes into the record.
test('a unit’s page is typed line by line with a photo, and two pages are compared', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/units/tide-2`)
  await page.getByRole('button', { name: 'Type its page' }).click()
  await page.getByLabel(/^Serial/).fill('TL-3302')
  await page.keyboard.press('Enter')
  await page.keyboard.type('2026-03-16')
  await page.getByLabel(/Photo of the label/).setInputFiles({
    name: 'label.png',
    mimeType: 'image/png',
    buffer: Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    ),
  })
  await page.getByRole('button', { name: 'Save this page' }).click()
  await expect(page.getByRole('img', { name: /^Photo of/ }).first()).toBeVisible()
  const compared = page.locator('.compared')
  await expect(compared.locator('tr', { hasText: 'Serial' })).toContainText('must not change')
  const version = compared.locator('tr', { hasText: '2026-03-16' })
  await expect(version).toContainText('2025-11-03')
  await expect(version).toContainText('had to change')
  await page.getByRole('button', { name: 'Paste its page' }).click()
  await page.getByLabel('The whole page, as it was copied').fill('Serial: TL-9999')
  await page.getByRole('button', { name: 'Save this page' }).click()
  await expect(page.getByRole('alert')).toContainText('This page is from another unit')
})
