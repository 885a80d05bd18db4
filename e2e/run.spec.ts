import type { Page } from '@playwright/test'
import { firstUnitOf } from '@bench-wake/demo'
import { expect, pick, powerUp, setSpeed, test, type Program } from './program'
import { byMouse } from './keys'
import { expectTrace, traces } from './traces'
import { answerOf, newest, releaseHolds, rightBench, work, workClosing, workNext } from './right-bench'

test.describe.configure({ mode: 'parallel' })

/*
 * Whole runs that go wrong and are brought home, on the screen as a person works them.
 */

/**
 * Cut where the cable is pulled out at a byte that nobody chose, and led back to the proof as a leg of the same run: a link that
 * goes on at that byte, and one that begins again. The fog signal is cut in every phase in cut-everywhere.spec.ts; every protocol is
 * in core/run/simulate-run.test.ts, and the trace of each in core/run/families.test.ts.
 */
const cuts: Record<string, { image: string; at: number; speed: '1' | '10' | '60'; goesOn?: true }> = {
  'mains-relay': { image: 'quay-relay-2.1.uf2', at: 0.31, speed: '10', goesOn: true },
  'beacon-receiver': { image: 'for-77120-2.4.0.bin', at: 0.14, speed: '1' },
}
for (const [familyId, { image, at, speed, goesOn = false }] of Object.entries(cuts)) {
  test(`the cable of a ${familyId} is pulled in the write, and the run goes on ${goesOn ? 'at that byte' : 'from the beginning'} to its proof`, async ({
    page,
    shared: program,
  }) => {
    const port = `stand-in:${firstUnitOf(familyId).id}`
    const jobId = await rightBench(program, familyId, image)
    await page.goto(`${program.address}/jobs/${jobId}`)
    await releaseHolds(page)
    await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
    await setSpeed(page, speed)
    await page.getByRole('button', { name: 'Start the run' }).click()
    const due = await work(
      page,
      program,
      jobId,
      ({ acknowledged, outcome, facts }) => acknowledged > at * facts.image!.bytes || outcome !== 'running',
      byMouse,
      // A write of half a second is not to be over between two looks.
      speed === '1' ? undefined : 80,
    )
    await program.send('PUT', '/ports/cables', { port, joined: false })
    await expect(page.getByRole('heading', { name: 'Do not power down.' })).toBeVisible()
    const cut = await newest(program, jobId)
    expect(cut.outcome).toBe('failed')
    expect(cut.acknowledged).toBeGreaterThan(at * due.facts.image!.bytes)

    await program.send('PUT', '/ports/cables', { port, joined: true })
    await page.getByRole('button', { name: 'Go on from here' }).click()
    const home = await work(page, program, jobId, ({ leg, outcome }) => leg === 2 && outcome !== 'running')
    expect(home.id).toBe(cut.id)
    expect(home.outcome).toBe('proved')
    expect(home.goesOnAt).toBe(goesOn ? cut.acknowledged : null)
    await page.goto(`${program.address}/logbook/${cut.id}`)
    await expect(page.getByRole('list', { name: 'Legs of this run' }).locator('li')).toHaveCount(2)
    await expect(page.getByText(/whole, \d+ events/)).toBeVisible()
    // A leg that began at the first byte has the whole of its protocol in the trace.
    if (!goesOn && traces[familyId]) await expectTrace(page, program, familyId)
  })
}

// PRACTICE D1, D2, common practice: what would not last to the last byte is held before the first one.
test('a supply that sags holds the run before the first sector, and lets it go when it is up', async ({
  page,
  program,
}) => {
  const port = 'stand-in:fog-07'
  const jobId = await rightBench(program, 'fog-signal', 'fs20-main-2.48.hex')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '60')
  await page.getByRole('button', { name: 'Start the run' }).click()
  await work(page, program, jobId, ({ prompt }) => prompt !== null)
  // Somebody lights the work lamp at the same battery while the run waits for its power.
  await program.send('PUT', '/ports/lamps', { port, on: true })
  const held = await work(page, program, jobId, ({ prompt }) => prompt?.prompt === 'supply-low')
  expect(held.acknowledged).toBe(0)
  expect(held.steps[held.open!]!.kind).toBe('erase')
  await expect(
    page.getByRole('heading', { name: /The supply (reads|is on its way to) 1\d\.\d\d V/ }),
  ).toBeVisible()
  await expect(page.getByText(/Put a charger on it, or take loads off/)).toBeVisible()
  // Measured again with the lamp still on it stays held; nothing was written.
  await page.getByRole('button', { name: 'Measure again' }).click()
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible()
  await expect.poll(async () => (await newest(program, jobId)).prompt?.prompt).toBe('supply-low')
  await program.send('PUT', '/ports/lamps', { port, on: false })
  const heard = page.waitForResponse(/\/answers$/)
  await page.getByRole('button', { name: 'Measure again' }).click()
  await heard
  const end = await work(page, program, jobId, ({ outcome, prompt }) =>
    prompt?.prompt === 'supply-low' ? true : outcome !== 'running',
  )
  expect(end.outcome).toBe('proved')
  const volts = end.supply.map((reading) => reading.volts)
  expect(Math.min(...volts)).toBeLessThan(11.5)
})

test('a stream of a run that was refused is asked for again, and the page goes on with it', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'fog-signal', 'fs20-main-2.48.hex')
  let asked = 0
  await page.route('**/api/runs/*/live*', (route) =>
    asked++ === 0 ? route.fulfill({ status: 503 }) : route.continue(),
  )
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await page.getByRole('button', { name: 'Start the run' }).click()
  await powerUp(page)
  await expect(
    page
      .getByText(/left of this/)
      .or(page.getByText(/Proved/))
      .first(),
  ).toBeVisible()
  expect(asked).toBe(2)
  await page.unrouteAll({ behavior: 'ignoreErrors' })
})

/** Works every write of a job's way, one after the other; the components in the order in which they were written. */
async function workAll(page: Page, program: Program, jobId: string): Promise<string[]> {
  const { left, stays } = (await program.get(`/jobs/${jobId}`)) as {
    left: { componentId: string }[]
    stays: unknown[]
  }
  const written: string[] = []
  for (const _ of stays) {
    await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
    const told = await workNext(page, program, jobId)
    expect(told.outcome).toBe('proved')
    const { component, also = [] } = told.facts
    written.push(component.id, ...also.map((each) => each.component.id))
  }
  expect(written).toEqual(left.map(({ componentId }) => componentId))
  return written
}

// PRACTICE I3, I4, common practice: all joints to one version, in order; then each moved slowly with people clear.
test('a davit’s six joints are written in order, and it is closed after its motion test', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'boat-davit', 'j0_520.hex')
  await page.goto(`${program.address}/jobs/${jobId}/plan`)
  await expect(page.getByRole('heading', { name: /^1\. 6 components, one entry/ })).toBeVisible()
  await expect(page.getByText(/In this order: Joint 0, base; .*; Joint 5, wrist\./)).toBeVisible()
  await page.getByRole('link', { name: 'Back to the job' }).click()
  await releaseHolds(page)
  await setSpeed(page, '0')
  expect(await workAll(page, program, jobId)).toEqual([0, 1, 2, 3, 4, 5].map((joint) => `joint-${joint}`))
  expect(Object.values((await program.get('/units/davit-1')).facts.versions)).toEqual(Array(6).fill('5.2.0'))
  // One way into the bootloader for all of them.
  expect((await newest(program, jobId)).steps.filter(({ kind }) => kind === 'enter')).toHaveLength(1)

  await page.getByLabel('Your name').fill('T. Reader')
  const motion = page.locator('[data-task=joints]')
  await expect(motion).toContainText('Move each joint alone, slowly')
  await expect(motion.getByRole('note')).toContainText('Nobody under the arm')
  const close = page.getByRole('button', { name: 'Close the job' })
  // The joint is moved only once the panel that stops it is plugged in, and the drives are on.
  await expect(motion.locator('[data-task-done]')).toBeDisabled()
  await expect(close).toBeDisabled()
  const worked = await workClosing(page)
  expect(worked.indexOf('panel')).toBeLessThan(worked.indexOf('back-drives-on'))
  expect(worked.indexOf('back-drives-on')).toBeLessThan(worked.indexOf('joints'))
  await close.click()
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()
  // What went over the link reads like its papers.
  await page.goto(`${program.address}/trace?port=stand-in:davit-1`)
  await page.getByLabel('Follow the end').uncheck()
  await page.getByLabel('Filter').fill('try joint')
  await expect(page.getByRole('region', { name: 'Rows of the trace' })).toContainText(/try joint-5/)
})

test('an inverter’s two processors are written one after the other, A before B', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'station-inverter', 'rel/img1.hex')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  expect(await workAll(page, program, jobId)).toEqual(['power', 'panel'])
  expect((await program.get('/units/inverter-1')).facts.versions).toMatchObject({
    power: '3.6',
    panel: '3.6',
  })
  await page.goto(`${program.address}/trace?port=stand-in:inverter-1`)
  await page.getByLabel('Follow the end').uncheck()
  await page.getByLabel('Filter').fill('record 0,')
  await expect(page.getByRole('region', { name: 'Rows of the trace' })).toContainText(
    /write file records, file 100, record 0/,
  )
})

// Common practice: a question is answered by whoever has read it. What comes under the hand next was not meant.
test('a key that is held, and a hand that presses twice, answer one question', async ({ page, program }) => {
  const jobId = await rightBench(program, 'fog-signal', 'fs20-main-2.48.hex')
  const panel = page.getByRole('heading', { name: 'Panel breaker Q2 off.' })
  const battery = page.getByRole('heading', { name: 'Battery switch S1 on.' })
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await page.getByRole('button', { name: 'Start the run' }).focus()
  await page.keyboard.down('Enter')
  await expect(panel).toBeVisible()
  await expect(answerOf(page)).toBeFocused()
  for (let held = 0; held < 20; held++) await page.keyboard.down('Enter')
  await page.keyboard.up('Enter')
  expect((await newest(program, jobId)).prompt?.says).toBe('Panel breaker Q2 off.')
  await expect(panel).toBeVisible()
  // The second press falls on the next question in the frame in which it comes.
  await page.evaluate(() => {
    const says = () => document.querySelector('.deck h2.say')?.textContent
    const before = says()
    const watch = new MutationObserver(() => {
      const button = document.querySelector<HTMLButtonElement>('.deck [data-answer]')
      if (!button || says() === before) return
      watch.disconnect()
      button.click()
    })
    watch.observe(document.querySelector('.deck')!, { childList: true, subtree: true, characterData: true })
  })
  await answerOf(page).click()
  await expect(battery).toBeVisible()
  await expect(answerOf(page)).toBeFocused()
  expect((await newest(program, jobId)).prompt?.says).toBe('Battery switch S1 on.')
  await page.keyboard.press('Enter')
  await expect(battery).toBeHidden()
})

// PRACTICE G1, G4, G5: the original is read twice before the first write, and it is the way back.
test('a logger gets its original back out of the backup that its run made', async ({ page, program }) => {
  const jobId = await rightBench(program, 'tide-logger', 'tide-2026-03-16.dfu')
  const answer = answerOf(page)
  const run = async (id: string) => {
    await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
    await pick(page, 'Port', 'Stand-in, Tide logger 2')
    await setSpeed(page, '0')
    await page.getByRole('button', { name: 'Start the run' }).click()
    await expect
      .poll(
        async () => {
          const { outcome, prompt } = await newest(program, id)
          if (prompt) await answer.click({ timeout: 1000 }).catch(() => {})
          return outcome
        },
        { timeout: 60_000 },
      )
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
  // PRACTICE D8: the test on mains comes after the cover.
  await expect(page.locator('[data-task=hoist] [data-task-done]')).toBeDisabled()
  const worked = await workClosing(page)
  expect(worked.indexOf('back-cover-on')).toBeLessThan(worked.indexOf('hoist'))
  await close.click()
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()
})

// PRACTICE D1, J3: a fuse that was pulled for the write is asked back by its name.
// In a program of its own: a unit that was written before would be found to hold the image already.
test('a launch’s job is not closed before fuse F14 is back', async ({ page, program }) => {
  const jobId = await rightBench(program, 'launch-motor', 'drive-3.6.elf')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  const answer = answerOf(page)
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
  const close = page.getByRole('button', { name: 'Close the job' })
  await expect(page.getByLabel(/F14/)).not.toBeChecked()
  await expect(close).toBeDisabled()
  await workClosing(page)
  await expect(page.getByLabel(/F14/)).toBeChecked()
  // What came back is kept: over a reload nothing is ticked twice.
  await page.reload()
  await expect(page.getByLabel(/F14/)).toBeChecked()
  await page.getByLabel('Your name').fill('T. Reader')
  await close.click()
  await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()
})

// PRACTICE E2, E11, common practice: the way in is led within the run, with its window, its sign and the reason for a miss.
test('a run leads into the bootloader by the coach: missed first and told why, then in', async ({
  page,
  program,
}) => {
  const jobId = await rightBench(program, 'tide-logger', 'tide-2026-03-16.dfu')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await releaseHolds(page)
  await setSpeed(page, '0')
  await page.getByRole('button', { name: 'Start the run' }).click()
  const asks = ({ prompt }: { prompt: { prompt: string } | null }) => prompt?.prompt === 'enter-by-hand'
  await work(page, program, jobId, asks)
  const acts = async (patient: boolean) => {
    for (let act = 1; act <= 4; act++) {
      await expect(page.getByText(`Act ${act} of 4`)).toBeVisible()
      if (act === 4 && patient) await expect(page.locator('.window.open')).toBeVisible()
      await expect(page.locator('.coach .acts [data-primary]')).toBeFocused()
      await page.keyboard.press('Enter')
    }
  }
  await expect(page.getByRole('button', { name: 'Begin the entry' })).toBeFocused()
  await page.keyboard.press('Enter')
  await acts(false)
  await expect(page.locator('.off')).toContainText('too early')
  // A miss costs nothing: the run waits where it was.
  expect(asks(await newest(program, jobId))).toBe(true)
  const again = page.getByRole('button', { name: 'Once more, from power off' })
  await expect(again).toBeFocused()
  await page.keyboard.press('Enter')
  await acts(true)
  await page.locator('[data-sign=dark]').press('Enter')
  await expect(page.getByRole('heading', { name: 'It is in.' })).toBeVisible()
  await page.getByRole('button', { name: 'Go on', exact: true }).press('Enter')
  const home = await work(page, program, jobId, ({ outcome }) => outcome !== 'running')
  expect(home.outcome).toBe('proved')
})
