import { AxeBuilder } from '@axe-core/playwright'
import { dayAt } from '@bench-wake/core/kernel'
import { expect, pick, test, unfold } from './program'

// PRACTICE C3, common practice: list the ports, plug, list again; the new one is it. No new port: the driver is missing.
test('which port is mine: the one that comes when the cable is plugged in', async ({ page, program }) => {
  const port = 'stand-in:fog-02'
  await page.goto(`${program.address}/ports`)
  const cable = page.getByLabel('Fog signal 02')
  await cable.uncheck()
  await expect(page.locator(`[data-port="${port}"]`)).toHaveCount(0)
  await page.getByRole('button', { name: 'Which port is mine?' }).click()
  await expect(page.getByText('Plug it in now.')).toBeVisible()
  await cable.check()
  await expect(page.getByText('The new one is Stand-in, Fog signal 02')).toBeVisible()
  await expect(page.locator(`[data-port="${port}"]`)).toBeVisible()
})

// PRACTICE C1, C2, common practice.
test('a cable is put into the drawer, marked bad, taken out and put back', async ({ page, shared }) => {
  await page.goto(`${shared.address}/adapters`)
  await page.getByRole('button', { name: 'Add one' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Yellow serial lead')
  await page.getByLabel('Levels of its switch').fill('3.3; 5')
  await page.getByRole('button', { name: 'Add a pin' }).click()
  await page.getByLabel('Name of pin 4').fill('VCC')
  await pick(page, 'What pin 4 is for', 'supply')
  await page.getByRole('button', { name: 'Save' }).click()
  const row = page.locator('[data-adapter=yellow-serial-lead]')
  await expect(row).toContainText('untried')
  await expect(row).toContainText('3.3 V or 5 V')
  await row.getByRole('button', { name: 'Mark bad' }).click()
  await expect(row).toContainText('known bad')
  await row.getByRole('button', { name: 'Remove' }).click()
  await expect(row).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(row).toContainText('known bad')
  // One that a job rests on stays.
  await page.locator('[data-adapter=fog-cable]').getByRole('button', { name: 'Remove' }).click()
  await expect(page.getByRole('alert')).toContainText('A job’s wiring rests on this adapter')
})

test('the kit of tomorrow is ticked on its list, and the same ticks stand in the job', async ({
  page,
  program,
}) => {
  // Days are counted from now, and not from when the demo was sown: that may have been before midnight.
  const to = dayAt(Date.now(), 1)
  await program.send('PATCH', '/jobs/job-davit-1', { day: { to, by: 'T. Reader' } })
  await page.goto(program.address)
  await page.getByRole('link', { name: /tomorrow, \d+ of \d+ packed/i }).click()
  await expect(page.getByRole('heading', { name: /To take along/ })).toBeVisible()
  await page.getByLabel(/Barrier tape/).check()
  await expect(page.getByText(/essential things are missing/)).toBeVisible()
  await page.getByRole('link', { name: /Davit, lifeboat slip/ }).click()
  const { kit } = await program.get('/jobs/job-davit-1')
  expect(kit.find(({ id }: { id: string }) => id === 'barrier-tape').packed).toBe(true)
})

// PRACTICE F4, common practice: with a second unit connected the wrong one, or both, are destroyed.
test('the bus is scanned: noise of two at one address, then one alone when the neighbours are off', async ({
  page,
  program,
}) => {
  await program.send('POST', '/units/inverter-1/snapshots', {
    source: 'menu',
    lines: Object.entries({
      deviceIdentifier: 'LI',
      model: 'LI-50',
      hardware: '5.2',
      serial: 'LI-20044',
      'version.power': '3.4',
      'version.panel': '3.4',
    }).map(([field, value]) => ({ field, label: field, value })),
  })
  await page.goto(`${program.address}/jobs/job-inverter-1`)
  const part = page.locator('[data-part=isolation]')
  await expect(part).toHaveAttribute('data-verdict', /./)
  await unfold(part)
  await unfold(page.locator('[data-part=wiring]'))
  await part.getByRole('button', { name: 'Scan the bus' }).click()
  await expect(part.getByText('noise: two')).toBeVisible()
  await expect(part).toContainText('3 units answer on the bus.')
  await expect(part).toHaveAttribute('data-verdict', 'stop')
  await part.getByLabel(/second inverter’s bus plug/).check()
  await part.getByLabel(/monitor’s bus plug/).check()
  await part.getByRole('button', { name: 'Scan the bus' }).click()
  await expect(part.locator('.there')).toHaveCount(1)
  await expect(part).toHaveAttribute('data-verdict', 'go')
  // Source: WCAG 2.2 AA by the rules of axe-core, with the drawings open.
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze()
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([])
})

test('a sum is drawn, and put into a job', async ({ page, program }) => {
  await page.goto(`${program.address}/sums?sum=charger-size`)
  await expect(page.getByRole('img', { name: /Smallest charger: \d+ A/ })).toBeVisible()
  await pick(page, 'Put this into the job of', 'Launch 2')
  await page.getByRole('button', { name: 'Use in job' }).click()
  await expect(page.getByText(/It is in the job of Launch 2/)).toBeVisible()
  const { bench } = await program.get('/jobs/job-launch-2')
  expect(bench.charger.amps).toBeGreaterThan(0)
  expect(bench.sums[0].says).toMatch(/^Smallest charger/)
})

test('among many ports one is found by its name, its cable with it', async ({ page, shared }) => {
  await page.goto(`${shared.address}/ports`)
  const rows = page.locator('[data-port]')
  await expect(rows.nth(12)).toBeVisible()
  await page.getByRole('textbox', { name: 'Find a port' }).fill('fog 07')
  await expect(rows).toHaveCount(1)
  await expect(rows).toContainText('Fog signal 07')
  await expect(page.getByRole('checkbox', { name: /Fog signal 07/ })).toBeVisible()
  await expect(page.getByRole('checkbox', { name: /Handheld/ })).toHaveCount(0)
  await page.getByRole('textbox', { name: 'Find a port' }).fill('nothing like it')
  await expect(page.getByText('No port is called that.')).toBeVisible()
})
