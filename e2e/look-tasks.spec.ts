import { demoBenches, firstUnitOf } from '@bench-wake/demo'
import { expect, pick, setSpeed, test } from './program'
import { releaseHolds, work, workClosing } from './right-bench'

test.describe.configure({ mode: 'parallel' })

/* Jobs that find out something and write nothing, worked on the page from the unit to the logbook. */

test('the original of a unit is read out as a job of its own, kept, and closed', async ({
  page,
  shared: program,
}) => {
  const unit = firstUnitOf('tide-logger')
  await page.goto(`${program.address}/units/${unit.id}`)
  await page.getByRole('button', { name: 'Start a job' }).click()
  await page.getByText('Read out the original', { exact: true }).click()
  // Neither an image nor a symptom is asked for.
  await expect(page.getByRole('combobox', { name: /^Image/ })).toHaveCount(0)
  await expect(page.getByLabel('Symptom 1')).toHaveCount(0)
  await page.getByRole('button', { name: 'Open the job' }).click()
  await expect(page).toHaveURL(/\/jobs\//)
  const jobId = page.url().split('/').at(-1)!
  await program.send('PUT', `/jobs/${jobId}/bench`, demoBenches['tide-logger'])
  const { kit } = await program.get(`/jobs/${jobId}`)
  const day = new Date().toISOString().slice(0, 10)
  for (const item of kit) await program.send('PUT', `/kit/${day}`, { item: item.id, packed: true })
  await page.reload()

  await expect(page.locator('.deck h2.say')).toContainText('Nothing is written')
  await pick(page, 'Port', `Stand-in, ${unit.name}`)
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  const told = await work(page, program, jobId, ({ outcome }) => outcome !== 'running')
  expect(told.outcome).toBe('done')
  await expect(page.locator('.deck h2.say')).toContainText('Read out and kept')
  await page.getByLabel('Your name').fill('A. Lund')
  await workClosing(page)
  await page.getByRole('button', { name: 'Close the job' }).click()
  await expect(page.locator('.deck h2.say')).toContainText('Read out and kept')

  await page.goto(`${program.address}/logbook`)
  const row = page.locator('tbody tr').filter({ hasText: 'Read out the original' }).first()
  await expect(row).toContainText('Done')
  await page.goto(`${program.address}/units/${unit.id}`)
  await expect(page.getByText('What it came with.')).toBeVisible()
})

test('what a link cannot do is not offered, and says why', async ({ page, shared: program }) => {
  await page.goto(`${program.address}/units/${firstUnitOf('fog-signal').id}`)
  await page.getByRole('button', { name: 'Start a job' }).click()
  const readOut = page.getByRole('radio', { name: /Read out the original/ })
  await expect(readOut).toBeDisabled()
  await expect(page.getByText('This link cannot read the memory out of the unit.')).toBeVisible()
  await expect(page.getByRole('radio', { name: /Compare an image/ })).toBeEnabled()
})

test('a chip that came ready programmed goes in by its label, and the unit shows what it should', async ({
  page,
  shared: program,
}) => {
  const unit = firstUnitOf('signal-desk')
  await page.goto(`${program.address}/units/${unit.id}`)
  await page.getByRole('button', { name: 'Start a job' }).click()
  await page.getByText('Fit a chip that came ready programmed', { exact: true }).click()
  await page.getByRole('button', { name: 'Open the job' }).click()
  await expect(page).toHaveURL(/\/jobs\//)
  const jobId = page.url().split('/').at(-1)!
  await program.send('POST', `/units/${unit.id}/snapshots`, {
    source: 'menu',
    lines: [{ field: 'version.chip', label: 'Version', value: 'AMBER' }],
  })
  await program.send('PUT', `/jobs/${jobId}/bench`, demoBenches['signal-desk'])
  const { kit } = await program.get(`/jobs/${jobId}`)
  const day = new Date().toISOString().slice(0, 10)
  for (const item of kit) await program.send('PUT', `/kit/${day}`, { item: item.id, packed: true })
  await page.reload()
  await expect(page.locator('.deck h2.say')).toContainText('Note what stands on the chip.')
  const on = page.getByRole('button', { name: 'Go on' })
  await page.getByLabel('Label of the chip').fill('CEDAR 5')
  await expect(on).toBeDisabled()
  await page.getByLabel('Mark of the chip').fill('29F040 2612')
  await page.getByLabel('Version on the label').fill('CEDAR')
  await on.click()
  await expect(page.locator('.deck h2.say')).toContainText(/CEDAR 5 goes in|Held/)
  await releaseHolds(page)
  await page.getByRole('button', { name: 'Start the run' }).click()
  for (;;) {
    const { runs } = await program.get(`/jobs/${jobId}`)
    if (runs[0]?.state.outcome === 'proved') break
    const prompt = runs[0]?.state.prompt
    if (prompt?.prompt === 'look')
      await page
        .locator('[data-answer=wanted]')
        .click({ timeout: 1000 })
        .catch(() => {})
    else if (prompt)
      await page
        .locator('.deck [data-answer=done]')
        .click({ timeout: 1000 })
        .catch(() => {})
    else await page.waitForTimeout(150)
  }
  await expect(page.locator('.deck h2.say')).toContainText('The unit says CEDAR itself')
  const { runs } = await program.get(`/jobs/${jobId}`)
  await page.goto(`${program.address}/logbook/${runs[0].id}`)
  await expect(page.getByText('CEDAR 5').first()).toBeVisible()
})
