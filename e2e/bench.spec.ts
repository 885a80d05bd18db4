import { expect, pick, test, unfold } from './program'

// PRACTICE D1, D2, common practice: never below 12.0 V; lamps come on with the key, so their fuse is pulled; a charger of 5 to 6 A.
test('the launch motor starts as Stop, and becomes Go with the lamp fuse pulled and a charger on', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/units/launch-2`)
  await page.getByRole('button', { name: 'Paste its page' }).click()
  await page
    .getByLabel('The whole page, as it was copied')
    .fill(
      'Controller: LM-80\nGeneration: 2\nLayout: L-204\nSerial: LM-00815\nProgram: 3.2\nFault codes: none',
    )
  await page.getByRole('button', { name: 'Save this page' }).click()
  await expect(page.getByRole('button', { name: 'Save this page' })).toHaveCount(0)
  await page.goto(`${program.address}/jobs/job-launch-2`)

  await expect(page.getByRole('heading', { name: /Stop\. Not with the bench like this/ })).toBeVisible()
  const holds = page.locator('[data-rule=supply-holds]').first()
  await expect(holds).toContainText(/The supply sags to 11\.\d\d V; the floor is 12\.00 V/)
  await expect(holds).toContainText(/fuse F14/i)
  const lowest = page.locator('[data-figure=lowest] dd')
  await expect(lowest).toHaveText(/^11\.\d\d V$/)
  const chart = page.getByRole('figure', { name: /Volts over the run: lowest 11\.\d\d V, floor 12\.00 V/ })
  await expect(chart).toBeVisible()

  await page.getByLabel(/pull fuse F14/).check()
  await expect(lowest).toHaveText(/^12\.\d\d V$/)
  await page.getByLabel('Charger on the battery').fill('6 A')
  await expect(page.getByRole('figure', { name: /lowest 12\.\d\d V/ })).toBeVisible()
  const part = (id: string) => page.locator(`[data-part=${id}]`)
  await expect(part('power')).toHaveAttribute('data-verdict', 'go')

  // Wiring: two pins joined by clicks, one by the keyboard, one typed.
  // On a stand-in's port what is not said yet holds nothing.
  await expect(part('wiring')).toHaveAttribute('data-verdict', 'note')
  if (!(await page.getByRole('combobox', { name: 'Cable or adapter' }).isVisible()))
    await unfold(part('wiring'))
  await pick(page, 'Cable or adapter', 'Vehicle bus adapter')
  const pin = (side: string, id: string) => page.locator(`[data-side=${side}][data-pin="${id}"]`)
  await pin('adapter', 'H').click()
  await pin('target', '14').click()
  await expect(part('wiring')).toContainText('The data pair is swapped')
  await pin('adapter', 'H').click()
  await pin('target', '14').click()
  await pin('adapter', 'H').focus()
  await page.keyboard.press('Enter')
  await pin('target', '6').focus()
  await page.keyboard.press('Enter')
  await pin('adapter', 'L').dragTo(pin('target', '14'))
  await page.getByLabel('Join two pins by typing').fill('gnd 5')
  await page.keyboard.press('Enter')
  await pick(page, 'The unit’s own supply is', 'on')
  await page.getByLabel('Between the bus wires, unpowered').fill('60 ohm')
  await expect(part('wiring')).toHaveAttribute('data-verdict', 'go')

  await unfold(part('kit'))
  for (const box of await part('kit').getByRole('checkbox').all()) {
    await box.check()
    await expect(box).toBeChecked()
  }
  await expect(part('kit')).toHaveAttribute('data-verdict', 'go')

  // What is left is the way back, for the owner to agree to.
  await page
    .locator('[data-rule=way-back]')
    .first()
    .getByRole('button', { name: /Release this hold/ })
    .click()
  await page.locator('.release').getByLabel('Your name').fill('A. Lund')
  await page.locator('.release').getByLabel('Reason').fill('the pilot agrees')
  await page.getByRole('button', { name: 'Release the hold' }).click()
  await expect(page.getByRole('heading', { name: /Ready: Drive processor 3\.2 to 3\.6/ })).toBeVisible()

  // The card for the bench has the joins in words.
  await page.getByRole('link', { name: 'Wiring card, for print' }).click()
  await expect(page.getByRole('row', { name: 'High (pin H) Bus high (pin 6)' })).toBeVisible()
  await page.getByRole('link', { name: 'Back to the job' }).click()

  // What was said of the bench is kept.
  await page.reload()
  await unfold(part('power'))
  await expect(page.getByLabel(/pull fuse F14/)).toBeChecked()
})

test('figures are read as people write them, or refused at their field', async ({ page, shared }) => {
  await page.goto(`${shared.address}/units/davit-1`)
  await page.getByRole('button', { name: 'Paste its page' }).click()
  const joints = [0, 1, 2, 3, 4, 5].map((joint) => `Joint ${joint}: 5.1`).join('\n')
  await page
    .getByLabel('The whole page, as it was copied')
    .fill(`Crane: DV-6\nBoard: 3.0\nSerial: DV-0021\n${joints}`)
  await page.getByRole('button', { name: 'Save this page' }).click()
  await expect(page.getByRole('button', { name: 'Save this page' })).toHaveCount(0)
  await page.goto(`${shared.address}/jobs/job-davit-1`)
  const volts = page.getByLabel('Measured at the unit’s terminals')
  const power = page.locator('[data-part=power]')
  await unfold(power)
  await expect(power).toHaveAttribute('data-verdict', 'hold')
  await volts.fill('twenty')
  await expect(page.locator('.supply .fault')).toContainText('for example 12.6 V')
  await volts.fill('25,2 V')
  await expect(page.locator('.supply .fault')).toHaveCount(0)
  await expect(power).toHaveAttribute('data-verdict', 'go')
  await volts.fill('22.4v')
  await expect(power).toHaveAttribute('data-verdict', 'stop')
  await volts.fill('12.6')
  await expect(page.locator('[data-rule=measurement-plausible]').first()).toContainText(
    '12.60 V does not go with this supply',
  )
})

// PRACTICE D11, common practice: 10 A at 48 V is 480 W, not 1 200 W; two inverters on one generator each count.
test('a sum is worked at every key, and a figure that does not read is pointed at', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/sums`)
  await page.getByRole('button', { name: 'Inverters on one generator' }).click()
  const figures = page.locator('.figures')
  await expect(figures).toContainText('480 W')
  await page.getByLabel('Second inverter').fill('15 A')
  await expect(figures).toContainText('1200 W')
  await expect(page.locator('[data-rule=generator-share]')).toHaveAttribute('data-level', 'stop')
  await page.getByLabel('Second inverter').fill('15 V')
  await expect(page.locator('.fault')).toContainText('"V" is not a unit of this field')
})

// PRACTICE D1: figures that rest on a description alone are not called measured.
test('volts that nobody has measured are said to be worked out', async ({ page, program }) => {
  await page.goto(`${program.address}/jobs/job-inverter-1`)
  const watched = page.getByRole('complementary', { name: 'What is watched' })
  await expect(watched).toContainText('V, not measured')
  await expect(watched).not.toContainText('last read')
  await expect(watched.getByRole('img', { name: /V estimated, floor 48\.00 V/ })).toBeVisible()
})
