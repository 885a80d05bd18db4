import { firstUnitOf } from '@bench-wake/demo'
import { expect, setSpeed, test, type Program } from './program'
import { releaseHolds, rightBench } from './right-bench'

/*
 * Whole runs that go wrong and are brought home, on the screen as a person works them.
 */

interface Told {
  id: string
  outcome: string
  leg: number
  acknowledged: number
  goesOnAt: number | null
  prompt: { prompt: string; says: string; answers: { id: string }[] } | null
}
async function newest(program: Program, jobId: string): Promise<Told> {
  const { runs } = await program.get(`/jobs/${jobId}`)
  return { id: runs[0]?.id, ...runs[0]?.state }
}

/** Cut where the cable is pulled out at a byte that nobody chose, and led back to the proof as a leg of the same run. */
const cuts: Record<string, { image: string; at: number; goesOn: boolean }> = {
  'mains-relay': { image: 'quay-relay-2.1.uf2', at: 0.31, goesOn: true },
  'station-inverter': { image: 'rel/img1.hex', at: 0.57, goesOn: true },
  'marine-radio': { image: 'RADIO.BIN', at: 0.22, goesOn: false },
  'boat-davit': { image: 'j0_520.hex', at: 0.44, goesOn: true },
}
for (const [familyId, { image, at, goesOn }] of Object.entries(cuts)) {
  test(`the cable of a ${familyId} is pulled in the write, and the run goes on ${goesOn ? 'at that byte' : 'from the beginning'} to its proof`, async ({
    page,
    shared: program,
  }) => {
    test.setTimeout(180_000)
    const port = `stand-in:${firstUnitOf(familyId).id}`
    const jobId = await rightBench(program, familyId, image)
    await page.goto(`${program.address}/jobs/${jobId}`)
    await releaseHolds(page)
    await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
    await setSpeed(page, '10')
    await page.getByRole('button', { name: 'Start the run' }).click()

    const answer = page.locator('.deck .acts [data-primary]:not(:has-text("Start the run"))')
    /** Answers whatever the run asks, until `when` holds. */
    const work = async (when: (told: Told) => boolean) => {
      for (let told = await newest(program, jobId); !when(told); told = await newest(program, jobId)) {
        if (told.prompt) await answer.click({ timeout: 1000 }).catch(() => {})
        else await page.waitForTimeout(20)
      }
    }
    await expect.poll(async () => (await newest(program, jobId)).id).toBeDefined()
    const bytes = (await program.get(`/jobs/${jobId}`)).runs[0].state.facts.image.bytes as number
    await work(({ acknowledged, outcome }) => acknowledged > at * bytes || outcome !== 'running')
    await program.send('PUT', '/ports/cables', { port, joined: false })
    await expect(page.getByRole('heading', { name: 'Do not power down.' })).toBeVisible()
    const cut = await newest(program, jobId)
    expect(cut.outcome).toBe('failed')
    expect(cut.acknowledged).toBeGreaterThan(at * bytes)

    await program.send('PUT', '/ports/cables', { port, joined: true })
    await page.getByRole('button', { name: 'Go on from here' }).click()
    await work(({ leg, outcome }) => leg === 2 && outcome !== 'running')
    const home = await newest(program, jobId)
    expect(home.id).toBe(cut.id)
    expect(home.outcome).toBe('proved')
    expect(home.goesOnAt).toBe(goesOn ? cut.acknowledged : null)
    await page.goto(`${program.address}/logbook/${cut.id}`)
    await expect(page.getByRole('list', { name: 'Legs of this run' }).locator('li')).toHaveCount(2)
    await expect(page.getByText(/whole, \d+ events/)).toBeVisible()
  })
}

// PRACTICE G1, G4, G5: the original is read twice before the first write, and it is the way back.
test('a logger gets its original back out of the backup that its run made', async ({
  page,
  shared: program,
}) => {
  test.setTimeout(180_000)
  const jobId = await rightBench(program, 'tide-logger', 'tide-2026-03-16.dfu')
  const answer = page.locator('.deck .acts [data-primary]:not(:has-text("Start the run"))')
  const run = async (id: string) => {
    await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
    await page.getByLabel('Port').selectOption({ label: 'Stand-in, Tide logger 2' })
    await setSpeed(page, '0')
    await page.getByRole('button', { name: 'Start the run' }).click()
    await expect
      .poll(async () => {
        const { outcome, prompt } = await newest(program, id)
        if (prompt) await answer.click({ timeout: 1000 }).catch(() => {})
        return outcome
      })
      .toBe('proved')
  }
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await run(jobId)
  await page.goto(`${program.address}/units/tide-2`)
  await expect(page.getByRole('link', { name: /logger firmware 2025-11-03, original/ })).toBeVisible()
  await page.getByRole('button', { name: 'Restore it' }).click()
  await expect(page).toHaveURL(/jobs\/job-/)
  const restore = page.url().split('/').at(-1)!
  const { bench } = await program.get(`/jobs/${jobId}`)
  await program.send('PUT', `/jobs/${restore}/bench`, bench)
  await page.reload()
  await releaseHolds(page)
  await run(restore)
  expect((await program.get('/units/tide-2')).facts.versions.logger).toBe('2025-11-03')
})

// Common practice for chips in sockets: strap, old chip kept, blank check, pin 1, mains last; closed when the cover is on.
test('a signal desk gets its chip changed by hand, step by step, and is not closed before its cover is on', async ({
  page,
  shared: program,
}) => {
  const jobId = await rightBench(program, 'signal-desk', 'birch.rom')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await page.getByRole('button', { name: 'Start the run' }).click()
  const seen: string[] = []
  const say = page.locator('.deck h2.say')
  const done = page.getByRole('button', { name: 'Done', exact: true })
  for (let told = await newest(program, jobId); told.prompt?.prompt !== 'look';) {
    const before = told.prompt?.prompt
    if (before) {
      await expect(say).toContainText(told.prompt!.says)
      seen.push(told.prompt!.says)
      await done.click()
    }
    await expect.poll(async () => (await newest(program, jobId)).prompt?.prompt).not.toBe(before)
    told = await newest(program, jobId)
  }
  const words = seen.join('\n')
  for (const part of [/proved dead/, /Wrist strap/, /Old chip into/, /Blank check/, /pin 1 at the dot/]) {
    expect(words).toMatch(part)
  }
  await page.getByRole('button', { name: 'BIRCH' }).click()
  await expect(page.getByRole('heading', { name: /The unit says BIRCH itself/ })).toBeVisible()
  const close = page.getByRole('button', { name: 'Close the job' })
  await page.getByLabel('Your name').fill('T. Reader')
  for (const item of await page.locator('[data-care]').all()) await item.locator('[data-care-done]').click()
  await expect(close).toBeDisabled()
  await page.getByLabel(/Cover on, then the plug in/).check()
  await close.click()
  await expect(page.getByRole('heading', { name: 'This job is closed.' })).toBeVisible()
})

// PRACTICE D1, J3: a fuse that was pulled for the write is asked back by its name.
test('a launch’s job is not closed before fuse F14 is back', async ({ page, shared: program }) => {
  test.setTimeout(120_000)
  const jobId = await rightBench(program, 'launch-motor', 'drive-3.6.elf')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  const answer = page.locator('.deck .acts [data-primary]:not(:has-text("Start the run"))')
  await expect
    .poll(
      async () => {
        const { outcome, prompt } = await newest(program, jobId)
        if (prompt) await answer.click({ timeout: 1000 }).catch(() => {})
        return outcome
      },
      { timeout: 90_000 },
    )
    .toBe('proved')
  await expect(page.getByText(/Fault codes: C10000 before clearing, none after/)).toBeVisible()
  await page.getByLabel('Your name').fill('T. Reader')
  for (const item of await page.locator('[data-care]').all()) await item.locator('[data-care-done]').click()
  const items = page.getByRole('region', { name: 'Back in order' }).getByRole('checkbox')
  const close = page.getByRole('button', { name: 'Close the job' })
  await expect(page.getByLabel(/F14/)).not.toBeChecked()
  await expect(close).toBeDisabled()
  for (const box of await items.all()) await box.check()
  await expect(page.getByLabel(/F14/)).toBeChecked()
  await close.click()
  await expect(page.getByRole('heading', { name: 'This job is closed.' })).toBeVisible()
})
