import { expect, test } from './program'

/*
 * Before a link is opened (PRACTICE D4, D8, F4, common practice): what it rests on comes first, each with its control there.
 */

test('an inverter with neighbours is not read before they are off; each tick lifts what it says', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/jobs/job-inverter-1`)
  const read = page.getByRole('button', { name: 'Read the unit' })
  await expect(page.locator('.deck')).toContainText(
    'The second inverter and the monitor on the bus still hang on it.',
  )
  await expect(read).toBeDisabled()
  // Label, screen and app can be read meanwhile.
  await expect(page.getByRole('button', { name: 'Type its page' })).toBeEnabled()

  // By keyboard alone: the first thing in the way has the focus.
  await expect(page.getByLabel('Pull the second inverter’s bus plug.')).toBeFocused()
  await page.keyboard.press('Space')
  await page.keyboard.press('Tab')
  await expect(page.getByLabel('Pull the monitor’s bus plug.')).toBeFocused()
  await page.keyboard.press('Space')
  await expect(read).toBeEnabled()
  await read.press('Enter')
  await expect(page.getByRole('heading', { name: 'Read what the unit says of itself.' })).toHaveCount(0)
  const { facts } = await program.get('/units/inverter-1')
  expect(Date.now() - facts.readAt).toBeLessThan(60_000)
})

test('without a job a unit is read once each thing in the way is answered for, and asked anew the next time', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/units/inverter-1`)
  const read = page.getByRole('button', { name: 'Read it now' })
  await expect(page.getByRole('group', { name: 'Before the link is opened' })).toBeVisible()
  await expect(read).toBeDisabled()
  await page.getByRole('checkbox', { name: /second inverter’s bus plug/ }).check()
  await read.click()
  await expect(page.getByRole('checkbox', { name: /second inverter’s bus plug/ })).not.toBeChecked()
  await expect(page.getByText(/^read over the link,/i).first()).toBeVisible()
})

test('the hardware that was read chooses the link, and a wiring drawn for the other one is refused', async ({
  page,
  program,
}) => {
  const { id } = await program.send('POST', '/jobs', {
    unitId: 'launch-1',
    kind: 'feature',
    reason: 'Bring it up.',
    day: new Date().toISOString().slice(0, 10),
  })
  await program.send('PUT', `/jobs/${id}/bench`, {
    wiring: { linkId: 'bus', adapterId: 'can-adapter', joins: [] },
  })
  await page.goto(`${program.address}/jobs/${id}`)
  await expect(page.locator('.deck')).toContainText('drawn for a link that this unit does not have')
  await expect(page.getByRole('button', { name: 'Read the unit' })).toBeDisabled()
})
