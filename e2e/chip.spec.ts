import { expect, pick, setSpeed, test, unfold } from './program'
import { newest, releaseHolds, rightBench, work, workClosing } from './right-bench'

/* A chip on a clip (JEDEC serial flash): nothing of the unit runs, its memory is read and written by itself. */

test('a desk’s chip is written on a clip: refused while a leg is loose, then proved byte by byte', async ({
  page,
  program,
}) => {
  test.setTimeout(120_000)
  const port = 'stand-in:desk-2'
  const before = (await program.get('/units/desk-2')) as { facts: { versions: Record<string, string> } }
  expect(before.facts.versions['chip']).toBe('AMBER')
  const jobId = await rightBench(program, 'signal-desk', 'birch-brass.rom', 'desk-2')

  // The clip is seated badly by the hand that would seat it.
  await page.goto(`${program.address}/ports`)
  await pick(page, 'How the clip sits: Signal desk, brass keys', 'clip: one leg is loose')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  const refused = await work(page, program, jobId, ({ outcome }) => outcome !== 'running')
  expect(refused.outcome).toBe('failed')
  expect(refused.acknowledged).toBe(0)
  const wake = (await program.get(`/runs/${refused.id}/wake`)) as { body: { type: string; step?: number } }[]
  const begun = wake
    .filter(({ body }) => body.type === 'step.started')
    .map(({ body }) => refused.steps[body.step!]!.kind)
  expect(begun).toEqual(['power-up', 'connect', 'identify'])
  await expect(page.getByText(/clip has no good contact/).first()).toBeVisible()
  await expect(page.getByText(/Seat it anew/).first()).toBeVisible()

  await program.send('PUT', '/ports/clips', { port, seat: 'good' })
  await page.getByRole('button', { name: 'Go on from here' }).click()
  const told = await work(
    page,
    program,
    jobId,
    ({ leg, outcome }) => leg > refused.leg && outcome !== 'running',
  )
  expect(told.outcome).toBe('proved')
  expect((await newest(program, jobId)).facts.image?.bytes).toBe(0x20000)
  await expect(page.getByRole('heading', { name: /The unit says BIRCH itself/ })).toBeVisible()
  const record = await program.get(`/runs/${told.id}/wake`)
  expect(JSON.stringify(record)).toMatch(/The chip says of itself: 262.144 bytes/)
  await page.getByLabel('Your name').fill('T. Reader')
  await workClosing(page)
  await page.getByRole('button', { name: 'Close the job' }).click()
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()
  expect((await program.get('/units/desk-2')).facts.versions['chip']).toBe('BIRCH')
})

test('an adapter says what it is and what it can do', async ({ page, shared: program }) => {
  await page.goto(`${program.address}/ports`)
  const row = page.locator('[data-port="stand-in:desk-2"]')
  await row.getByRole('button', { name: /can do/ }).click()
  await expect(row).toContainText('serial desk-2, firmware 1.04')
  await expect(row).toContainText('Can: chip on a clip, six-line port')
  const debug = page.locator('[data-port="stand-in:beacon-7"]')
  await debug.getByRole('button', { name: /can do/ }).click()
  await expect(debug).toContainText('Can: debug port by serial wire')
  // A USB device that is no adapter says so, and what to do.
  const logger = page.locator('[data-port="stand-in:tide-2"]')
  await logger.getByRole('button', { name: /can do/ }).click()
  await expect(logger).toContainText('no debug adapter that this program knows')
})

test('a board is written over six lines: a fuse that would lock out is held, another one is set', async ({
  page,
  program,
}) => {
  test.setTimeout(120_000)
  const jobId = await rightBench(program, 'relay-driver', 'quay-driver-1.4.hex', 'driver-2')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await unfold(page.locator('[data-part=fuses]'))
  const guard = page.locator('[data-fuse="guard"]')
  await expect(guard).toContainText('reads 0xDC')
  await guard.getByRole('switch', { name: 'Guard, Six-line port' }).click()
  await expect(
    page.getByText(/Six-line port: the port is shut. Nobody gets in over this port again/).first(),
  ).toBeVisible()
  await expect(page.getByRole('button', { name: /Release this hold/ }).first()).toBeVisible()
  await guard.getByRole('switch', { name: 'Guard, Six-line port' }).click()
  await guard.getByRole('switch', { name: 'Guard, Watchdog' }).click()
  await expect(guard).toContainText('the job wants 0xCC')
  await expect(page.getByText(/Watchdog: the watchdog always runs/).first()).toBeVisible()
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  const told = await work(page, program, jobId, ({ outcome }) => outcome !== 'running')
  expect(told.outcome).toBe('proved')
  expect(told.steps.map(({ kind }) => kind)).toContain('fuses')
  const wake = JSON.stringify(await program.get(`/runs/${told.id}/wake`))
  expect(wake).toContain('Guard 0xDC to 0xCC: Watchdog, the watchdog always runs.')
  await expect(page.getByRole('heading', { name: /The unit says 1\.4 itself/ })).toBeVisible()
  await page.getByLabel('Your name').fill('T. Reader')
  await workClosing(page)
  await page.getByRole('button', { name: 'Close the job' }).click()
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()
})
