import { demoFirmware, demoImages } from '@bench-wake/demo'
import { eq } from 'drizzle-orm'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { openDatabase } from '../server/db/open'
import { standIns } from '../server/db/schema'
import { expect, pick, powerUp, setSpeed, test } from './program'

test('the demo job from today to the logbook, by keyboard alone', async ({ page, program }) => {
  await page.goto(program.address)
  const open = page.getByRole('button', { name: 'Open the job' })
  await expect(open).toBeFocused()
  await page.keyboard.press('Enter')

  await expect(page.getByRole('heading', { name: 'Read what the unit says of itself.' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Read the unit' })).toBeFocused()
  // What it is about is read first: the page stays at its top, though the button lies further down.
  expect(await page.evaluate(() => window.scrollY)).toBe(0)
  await page.keyboard.press('Enter')

  await expect(page.getByRole('heading', { name: /Ready: Main processor 2\.41 to 2\.48/ })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Start the run' })).toBeFocused()
  // Ten times as fast: two steps back to the speed, one key down, and forward again.
  await page.keyboard.press('Shift+Tab')
  await expect(page.getByLabel('Speed of the stand-in')).toBeFocused()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Tab')
  await expect(page.getByRole('button', { name: 'Start the run' })).toBeFocused()
  await page.keyboard.press('Enter')

  // PRACTICE D4: panels off before the battery; each with its caution, each by one key.
  await expect(page.getByRole('heading', { name: 'Panel breaker Q2 off.' })).toBeVisible()
  await expect(page.getByText(/never pull a plug under load/)).toBeVisible()
  await expect(page.getByRole('button', { name: 'Done' })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Battery switch S1 on.' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Done' })).toBeFocused()
  await page.keyboard.press('Enter')

  // The live write: percent, bytes, rate, time left, volts against the floor.
  await expect(page.getByRole('heading', { name: 'Writing. Leave plug, lid and key alone.' })).toBeVisible()
  const deck = page.locator('.deck')
  await expect(deck.getByText(/\d+ of 262\s144 bytes/)).toBeVisible()
  await expect(deck.getByText(/kB\/s/)).toBeVisible()
  await expect(deck.getByText(/left of this/)).toBeVisible()
  await expect(page.locator('.plimsoll')).toHaveAttribute('aria-label', /1[12]\.\d\d V now, floor 11\.50 V/)
  await expect(page.getByRole('status').getByText('Fog signal 07')).toBeVisible()

  await expect(page.getByRole('heading', { name: /Switch the controller’s supply off/ })).toBeVisible({
    timeout: 40_000,
  })
  await expect(page.getByText(/Caution\./)).toBeVisible()
  await expect(page.getByRole('button', { name: 'It is on again' })).toBeFocused()
  await page.keyboard.press('Enter')

  await expect(page.getByRole('heading', { name: /The unit says 2\.48 itself/ })).toBeVisible()
  // PRACTICE D4, J3: what was switched off comes back before the job is closed.
  await expect(page.getByRole('button', { name: 'Close the job' })).toBeDisabled()
  // PRACTICE I2, I3: the scare that came, the function test, the settings; one key for each.
  // Each word stands under the name of who says it, which comes first.
  await expect(page.getByLabel('Your name')).toBeFocused()
  await expect(page.locator('[data-task=first-blast] [data-task-done]')).toBeDisabled()
  await page.keyboard.type('T. Keys')
  await page.keyboard.press('Enter')
  // PRACTICE D4, I3, J3: the panels come back before the test that needs them.
  for (const item of ['first-blast', 'back', 'sounds', 'interval']) {
    if (item === 'back') {
      const back = page.getByLabel(/Panel breaker Q2 on again/)
      await expect(back).toBeFocused()
      await page.keyboard.press('Space')
      await expect(back).toBeChecked()
      continue
    }
    const first = page.locator(`[data-task=${item}]`)
    await expect(first.locator('[data-task-done]')).toBeFocused()
    await page.keyboard.press('Enter')
    await expect(first).toContainText(/Done and well/)
  }
  await expect(page.getByRole('button', { name: 'Close the job' })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()

  // The unit's page shows the new version; the logbook the run with its strip.
  await page.keyboard.press('Control+k')
  await expect(page.getByRole('combobox', { name: /Find a unit/ })).toBeFocused()
  await page.keyboard.type('logbook')
  await page.keyboard.press('Enter')
  const row = page.locator('tr', { hasText: 'Fog signal 07' })
  await expect(row).toContainText('2.41 to 2.48')
  await expect(row).toContainText('Proved')
  await expect(row.getByRole('img', { name: /Fog signal 07: Proved/ })).toBeVisible()
  expect((await program.get('/units/fog-07')).facts.versions.main).toBe('2.48')

  await program.end('SIGTERM')
  const { db, close } = await openDatabase(pathToFileURL(join(program.folder, 'bench-wake.db')).href)
  const [kept] = await db.select().from(standIns).where(eq(standIns.id, 'fog-07'))
  close()
  expect(Buffer.from(kept!.flash).equals(demoFirmware(demoImages[0]!.image))).toBe(true)
})

test('the image of another hardware line is refused with its reason, and the right one is offered first', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/jobs/job-fog-02`)
  await page.getByRole('button', { name: 'Read the unit' }).click()
  await expect(page.getByRole('heading', { name: 'This image must not go on.' })).toBeVisible()
  await expect(
    page.getByText('The image is for hardware 3; this unit is hardware 2.4.').first(),
  ).toBeVisible()
  const first = page.locator('.deck li[data-verdict]').first()
  await expect(first).toContainText('update(1).hex')
  await expect(page.locator('.deck li[data-verdict=stop]').getByRole('button')).toHaveCount(0)
  await first.getByRole('button', { name: 'Take this one' }).click()
  // The workshop updates only to cure something, and this job names nothing (PRACTICE A7).
  await expect(page.getByRole('heading', { name: /Held/ })).toBeVisible()
  await page.getByRole('button', { name: 'Release this hold by name and reason' }).click()
  await page.locator('.release').getByLabel('Your name').fill('A. Lund')
  await page.getByLabel('Reason').fill('the harbour master wants both alike')
  await page.getByRole('button', { name: 'Release the hold' }).click()
  await expect(page.getByRole('heading', { name: /Ready: Main processor 2\.30 to 2\.48/ })).toBeVisible()
})

test('a write is abandoned only in two steps, which say what is left behind', async ({ page, program }) => {
  await page.goto(`${program.address}/jobs/job-fog-07`)
  await page.getByRole('button', { name: 'Read the unit' }).click()
  // In real time it lasts while a hand is on its way.
  await setSpeed(page, '1')
  await page.getByRole('button', { name: 'Start the run' }).click()
  await powerUp(page)
  const first = page.getByRole('button', { name: 'Abandon this write…' })
  await first.click()
  await expect(page.getByText(/This leaves it behind:.*cannot start it/)).toBeVisible()
  // The focus begins at what does nothing.
  await expect(page.getByRole('button', { name: 'Keep writing' })).toBeFocused()
  await page.keyboard.press('Enter')
  await first.click()
  await page.getByRole('button', { name: 'Abandon it half written' }).click()
  await expect(page.getByRole('heading', { name: 'Do not power down.' })).toBeVisible()
  await expect(page.locator('.deck').getByText(/Abandoned at byte/)).toBeVisible()
})

test('the same version is held until a named person gives a reason, and the record keeps both', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/units/fog-11`)
  await page.getByRole('button', { name: 'Start a job' }).click()
  await page.getByPlaceholder(/What it should cure/).fill('Settings page shows rubbish.')
  await pick(page, 'Image', 'Hold: fs20-main-2.48.hex, 2.48')
  await page.getByRole('button', { name: 'Open the job' }).click()
  await page.getByRole('button', { name: 'Read the unit' }).click()
  await expect(page.getByText(/Nothing to do: the unit already has 2\.48/).first()).toBeVisible()
  await expect(page.getByRole('button', { name: 'Start the run' })).toBeDisabled()
  await page.getByRole('button', { name: 'Release this hold by name and reason' }).click()
  await page.locator('.release').getByLabel('Your name').fill('A. Lund')
  await page.getByLabel('Reason').fill('page is garbled, supplier asked for it')
  await page.getByRole('button', { name: 'Release the hold' }).click()
  await setSpeed(page, '60')
  await page.getByRole('button', { name: 'Start the run' }).click()
  await powerUp(page)
  await page.getByRole('button', { name: 'It is on again' }).click({ timeout: 40_000 })
  await expect(page.getByRole('heading', { name: /The unit says 2\.48 itself/ })).toBeVisible()
  await expect(page.locator('[data-station=bench]')).toContainText('released by A. Lund')
})
