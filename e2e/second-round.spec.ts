import { demoFamily, demoFieldsOf, hexOf, placed } from '@bench-wake/demo'
import { byKeys, chooseByKeys } from './keys'
import { expect, setSpeed, test } from './program'
import { releaseHolds, rightBench, workClosing, workNext } from './right-bench'

/*
 * PRACTICE B2, K1, common practice: a calibration comes a second time under the same version, with other bytes. What was said
 * of the bench the first time is offered, and nothing measured.
 */

const name = 'fs20-second.hex'

test('a second round of the same version with other bytes is a job, written and closed', async ({
  page,
  program,
}) => {
  const first = await rightBench(program, 'fog-signal', 'fs20-main-2.48.hex')
  await page.goto(`${program.address}/jobs/${first}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  expect((await workNext(page, program, first, byKeys)).outcome).toBe('proved')
  await page.getByLabel('Your name').fill('T. Reader')
  await workClosing(page, byKeys)
  await byKeys(page.getByRole('button', { name: 'Close the job' }))
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()

  // The second file says the same version, built on another day.
  const fields = demoFieldsOf('fog-signal', 'main', { version: '2.48', buildTime: 1_790_000_000 })
  await page.goto(`${program.address}/shelf`)
  await page.getByLabel('Image file').setInputFiles({
    name,
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(hexOf(placed(demoFamily('fog-signal'), fields))),
  })
  await expect(page.locator('tr.fresh')).toContainText('2.48')

  await page.goto(`${program.address}/units/fog-07`)
  await byKeys(page.getByRole('button', { name: 'Start a job' }))
  await byKeys(page.getByRole('radio', { name: 'A feature' }))
  const image = page.getByRole('combobox', { name: 'Image' })
  await chooseByKeys(image, `Note: ${name}, 2.48`)
  await page.getByRole('textbox', { name: /In a sentence/ }).fill('The second calibration.')
  await byKeys(page.getByRole('button', { name: 'Open the job' }))
  await expect(page).toHaveURL(/\/jobs\//)
  const second = page.url().split('/').at(-1)!
  await expect(page.getByText('Yes: 2.48 with other bytes is asked for.').first()).toBeVisible()

  // Cable and supply of the first round are taken over in one press; what was measured is measured again.
  await byKeys(page.getByRole('button', { name: 'It is the same again' }))
  await expect
    .poll(async () => (await program.get(`/jobs/${second}`)).bench.wiring?.adapterId)
    .toBe('fog-cable')
  expect((await program.get(`/jobs/${second}`)).bench.measured).toBeUndefined()
  await releaseHolds(page)
  await setSpeed(page, '0')
  const told = await workNext(page, program, second, byKeys)
  expect(told.outcome).toBe('proved')
  await workClosing(page, byKeys)
  await byKeys(page.getByRole('button', { name: 'Close the job' }))
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()
  await page.goto(`${program.address}/logbook`)
  await expect(page.getByRole('row').filter({ hasText: name }).first()).toContainText('2.48')
})
