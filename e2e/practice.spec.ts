import { firstUnitOf, rightBench } from '@bench-wake/demo'
import { expect, setSpeed, test } from './program'
import { work } from './right-bench'

/* Any job can be tried on a stand-in of its own before it is worked. */

test('a job is practised on a stand-in, and the unit’s own job stands where it stood', async ({
  page,
  shared: program,
}) => {
  const unit = firstUnitOf('mains-relay')
  const jobId = await rightBench(program, 'mains-relay', 'quay-relay-2.1.uf2')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await page.getByRole('button', { name: 'Practise it on a stand-in' }).click()
  await expect(page).not.toHaveURL(new RegExp(jobId))
  const practice = page.url().split('/').at(-1)!
  await expect(page.getByText('Practice: nothing of it counts for the unit itself.')).toBeVisible()
  await expect(page.locator('.port')).toContainText(`Stand-in, Practice: ${unit.name}`)
  await page.getByRole('button', { name: 'Read the unit' }).click()
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  const told = await work(page, program, practice, ({ outcome }) => !['running', undefined].includes(outcome))
  expect(told.outcome).toBe('proved')
  const { runs } = await program.get(`/jobs/${jobId}`)
  expect(runs).toEqual([])
})
