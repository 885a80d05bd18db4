import { firstUnitOf, rightBench } from '@bench-wake/demo'
import { expect, pick, setSpeed, test } from './program'
import { releaseHolds, work } from './right-bench'

/* PRACTICE G3, J2: what an update erases is kept before, and stands where it is put back. */

const png = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
)

test('settings are typed and photographed before the update, and shown where they are put back', async ({
  page,
  shared: program,
}) => {
  const unit = firstUnitOf('marine-radio')
  const jobId = await rightBench(program, 'marine-radio', 'RADIO.BIN')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await pick(page, 'Port', `Stand-in, ${unit.name}`)
  const keep = page.getByRole('region', { name: 'Settings to keep' })
  const name = keep.getByLabel('Name on its first screen')
  await name.fill('PIER 7')
  await expect(keep.getByText(/no spaces or signs\.$/)).toBeVisible()
  await name.fill('PIER7')
  await expect(keep.getByText(/no spaces or signs\.$/)).toHaveCount(0)
  await keep
    .getByLabel('Photo or file of the settings')
    .setInputFiles({ name: 'channels-1.png', mimeType: 'image/png', buffer: png })
  await expect(keep.getByRole('img', { name: 'channels-1.png' })).toBeVisible()
  await releaseHolds(page)
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  // At the question they stand too, and one more can be added.
  await work(page, program, jobId, ({ prompt }) => prompt?.prompt === 'settings')
  await expect(keep.getByRole('img', { name: 'channels-1.png' })).toBeVisible()
  const told = await work(page, program, jobId, ({ outcome }) => outcome !== 'running')
  expect(told.outcome).toBe('proved')
  const back = page.getByRole('region', { name: 'Settings as they were' })
  await expect(back.getByText('PIER7')).toBeVisible()
  await expect(back.getByRole('img', { name: 'channels-1.png' })).toBeVisible()
  await expect(back.getByRole('button')).toHaveCount(0)
})
