import { execFileSync } from 'node:child_process'
import { expect, powerStands, powerUp, setSpeed, test } from './program'

test('the disk fills up in the middle of a write: the screen says why it was cut, and leads on once there is room', async ({
  page,
  program,
}) => {
  const limit = (bytes: string) =>
    execFileSync('prlimit', [`--fsize=${bytes}:`, '--pid', String(program.pid)])
  await page.goto(`${program.address}/jobs/job-fog-07`)
  await page.getByRole('button', { name: 'Read the unit' }).click()
  // In real time the write lasts 24 s: a machine that stands still for some of them does not miss it.
  await setSpeed(page, '1')
  await page.getByRole('button', { name: 'Start the run' }).click()
  await powerUp(page)
  await expect(async () => {
    const { runs } = await program.get('/jobs/job-fog-07')
    expect(runs[0].state.progress?.unit).toBe('bytes')
    expect(runs[0].state.progress.done).toBeGreaterThan(40_000)
  }).toPass({ timeout: 60_000 })
  limit('4096')
  await expect(page.getByText(/The record could not be written: .*disk/).first()).toBeVisible({
    timeout: 60_000,
  })
  await expect(page.getByText(/went on to its last byte without a record/).first()).toBeVisible()
  await expect(page.getByText(/^The image is written, but its checksum was not confirmed/)).toBeVisible()
  await expect(page.getByText('nothing running')).toBeVisible()
  if (process.env['SHOT']) await page.screenshot({ path: process.env['SHOT'] })

  // A start that cannot be recorded is refused with the way out.
  await page.getByRole('button', { name: 'Go on from here' }).click()
  await expect(page.getByRole('alert')).toContainText(/disk/i)
  limit('unlimited')
  await page.getByRole('button', { name: 'Go on from here' }).click()
  await powerStands(page)
  await expect(async () => {
    const { runs } = await program.get('/jobs/job-fog-07')
    expect(runs).toHaveLength(1)
    expect(runs[0].state).toMatchObject({ leg: 2, outcome: 'running' })
  }).toPass()
})
