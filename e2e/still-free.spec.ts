import { byKeys, chooseByKeys } from './keys'
import { expect, setSpeed, test } from './program'
import { answerOf, newest, releaseHolds, rightBench, work, workClosing } from './right-bench'

test.describe.configure({ mode: 'parallel', timeout: 180_000 })

/*
 * What a person may still choose when a run does not reach its end, and what is done with the job itself (issue: no dead end;
 * PRACTICE C3, H6, I3, J4, L1).
 */

const image = 'fs20-main-2.48.hex'

test('stopped at its first question nothing is written, and the bench is free again', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'fog-signal', image)
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await byKeys(page.getByRole('button', { name: 'Start the run' }))
  await byKeys(page.getByRole('button', { name: 'Stop here, nothing is written' }))
  await expect(page.getByText('Stopped before the first byte. Nothing was written.').first()).toBeVisible()
  expect((await newest(program, jobId)).outcome).toBe('abandoned')

  await byKeys(page.getByRole('button', { name: 'Back to the bench' }))
  await expect(page.getByText(/Opened again\. Nothing that was said here is lost/)).toBeVisible()
  await setSpeed(page, '0')
  // What was released stands: nobody is asked for their name a second time.
  await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
  await byKeys(page.getByRole('button', { name: 'Start the run' }))
  const home = await work(
    page,
    program,
    jobId,
    ({ leg, outcome }) => leg === 2 && outcome !== 'running',
    byKeys,
  )
  expect(home.outcome).toBe('proved')
})

test('a run that was cut goes on over another port; over the wrong one it is refused, and led back', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'fog-signal', image)
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '1')
  await byKeys(page.getByRole('button', { name: 'Start the run' }))
  await work(page, program, jobId, ({ acknowledged }) => acknowledged > 50_000, byKeys)
  await program.send('PUT', '/ports/cables', { port: 'stand-in:fog-07', joined: false })
  await expect(page.getByRole('heading', { name: 'Do not power down.' })).toBeVisible()
  const free = page.getByRole('region', { name: 'Still free to choose' })
  await expect(free).toBeVisible()
  // No other port is guessed for a unit that is half written; the run waits for a choice.
  await expect(free.getByText(/is not there any more/)).toBeVisible()
  await expect(page.getByRole('button', { name: 'Go on from here' })).toBeDisabled()

  // The wrong unit answers over the other adapter: its serial is read before a byte is written.
  await chooseByKeys(free.getByRole('combobox', { name: 'Port' }), 'Stand-in, Fog signal 11')
  await expect(free.getByText(/The last leg went over/)).toBeVisible()
  await byKeys(page.getByRole('button', { name: 'Go on from here' }))
  const refused = await work(
    page,
    program,
    jobId,
    ({ leg, outcome }) => leg === 2 && outcome !== 'running',
    byKeys,
  )
  expect(refused.outcome).toBe('failed')
  await expect(page.getByText(/another unit is on the cable/i).first()).toBeVisible()
  // What the first leg left is not forgotten for it.
  await expect(page.getByRole('heading', { name: 'Do not power down.' })).toBeVisible()

  await program.send('PUT', '/ports/cables', { port: 'stand-in:fog-07', joined: true })
  await chooseByKeys(free.getByRole('combobox', { name: 'Port' }), 'Stand-in, Fog signal 07')
  await byKeys(page.getByRole('button', { name: 'Go on from here' }))
  const home = await work(
    page,
    program,
    jobId,
    ({ leg, outcome }) => leg === 3 && outcome !== 'running',
    byKeys,
  )
  expect(home.outcome).toBe('proved')
})

test('a half-written unit is closed only with a word on what became of it, and the job is opened again', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'fog-signal', image)
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '1')
  await byKeys(page.getByRole('button', { name: 'Start the run' }))
  await work(page, program, jobId, ({ acknowledged }) => acknowledged > 20_000, byKeys)
  await program.send('PUT', '/ports/cables', { port: 'stand-in:fog-07', joined: false })
  await byKeys(page.getByRole('button', { name: 'Close it as it is…' }))
  await expect(page.getByRole('heading', { name: 'Half written, out of use.' })).toBeVisible()
  const close = page.getByRole('button', { name: 'Close it without a proof' })
  await page.getByRole('textbox', { name: 'Your name' }).fill('M. Tarn')
  await workClosing(page, byKeys)
  await expect(close).toBeDisabled()
  await page
    .getByRole('textbox', { name: /What became of the unit/ })
    .fill('Swapped for the spare; this one goes to the workshop.')
  await byKeys(close)
  await expect(page.getByRole('heading', { name: 'Half written, out of use.' })).toBeVisible()
  await expect(page.getByText('Swapped for the spare').first()).toBeVisible()

  await byKeys(page.getByRole('button', { name: 'Open it again' }))
  await page.getByRole('textbox', { name: 'Reason' }).fill('It is on the workshop’s bench.')
  await byKeys(page.getByRole('button', { name: 'Open this job again' }))
  await expect(page.getByRole('heading', { name: 'Do not power down.' })).toBeVisible()
  await expect(page.getByRole('list', { name: 'What was done with this job' }).locator('li')).toHaveCount(2)
})

test('a function test that is not well closes as written and not fit for use, everywhere', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'fog-signal', image)
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  await byKeys(page.getByRole('button', { name: 'Start the run' }))
  const { id } = await work(page, program, jobId, ({ outcome }) => outcome === 'proved', byKeys)
  await page.getByRole('textbox', { name: 'Your name' }).fill('M. Tarn')
  const sounds = page.locator('[data-task=sounds]')
  await byKeys(page.locator('[data-task=first-blast] [data-task-done]'))
  await byKeys(page.getByLabel(/Panel breaker Q2 on again/))
  await byKeys(sounds.getByRole('button', { name: 'Not well', exact: true }))
  await sounds.getByRole('textbox').fill('The horn stays silent.')
  await byKeys(sounds.getByRole('button', { name: 'Save' }))
  await expect(sounds.getByText('M. Tarn')).toBeVisible()
  await workClosing(page, byKeys)
  await expect(page.getByRole('heading', { name: /says 2\.48 itself, and is not fit for use/ })).toBeVisible()
  const close = page.getByRole('button', { name: 'Close it: not fit for use' })
  await byKeys(close)
  await expect(page.getByRole('heading', { name: 'Written, not fit for use.' })).toBeVisible()
  // What was said of the test is the closing word: nobody types it twice.
  await expect(page.locator('.deck .lead')).toContainText('The horn stays silent.')
  await page.goto(`${program.address}/logbook/${id}`)
  await expect(page.getByRole('heading', { name: /written, not fit for use/ })).toBeVisible()
  await page.goto(`${program.address}/logbook`)
  await expect(page.getByText('Written, not fit for use').first()).toBeVisible()
})

test('a job is moved to another day and withdrawn with a reason, before anything was begun', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/jobs/job-tide-2`)
  await byKeys(page.getByRole('button', { name: 'Another day' }))
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('textbox').first().fill('2027-03-01')
  await dialog.getByRole('textbox', { name: 'Your name' }).fill('M. Tarn')
  await byKeys(dialog.getByRole('button', { name: 'Move to another day' }))
  await expect(page.getByText('For 2027-03-01')).toBeVisible()
  await byKeys(page.getByRole('button', { name: 'Withdraw it' }))
  await page.getByRole('textbox', { name: 'Reason' }).fill('The logger was sold.')
  await byKeys(page.getByRole('button', { name: 'Withdraw this job' }))
  await expect(page.getByRole('heading', { name: 'Not done.' })).toBeVisible()
  await page.goto(`${program.address}/`)
  await expect(page.getByText('job-tide-2')).toHaveCount(0)
})

test('a station that is done is opened again: another image, the same bench', async ({ page, program }) => {
  const jobId = await rightBench(program, 'fog-signal', image)
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await byKeys(page.getByRole('button', { name: 'Image: open it again' }))
  await expect(page.getByRole('heading', { name: 'Choose the image.' })).toBeVisible()
  await expect(page.getByText(/Fit, way and time follow the image/)).toBeVisible()
  await byKeys(page.getByRole('button', { name: 'Back to where the job stands' }))
  await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
  await byKeys(page.getByRole('button', { name: 'Unit: open it again' }))
  await byKeys(page.getByRole('button', { name: 'Read the unit' }))
  // Read, the job goes on where it stands; the release stands too, since the same is said.
  await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
  await page.reload()
  await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
  expect(await answerOf(page).count()).toBe(0)
})
