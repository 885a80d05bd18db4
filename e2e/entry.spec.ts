import { AxeBuilder } from '@axe-core/playwright'
import { actsInOrder } from '@bench-wake/core/family'
import { faultDrillsOf } from '@bench-wake/core/entry'
import { demoFamily, demoFamilyList, firstUnitOf } from '@bench-wake/demo'
import type { Page } from '@playwright/test'
import { expect, pick, test, type Program } from './program'

test.describe.configure({ mode: 'parallel' })

/*
 * Into the bootloader of every demo family by the coach (PRACTICE E1 to E11, common practice): failed in its typical way
 * first, with the right reason read, then done. Keyboard alone.
 */

async function coachOf(program: Program, familyId: string): Promise<string> {
  const { id } = await program.send('POST', '/jobs', {
    unitId: firstUnitOf(familyId).id,
    kind: 'feature',
    reason: 'Practise the entry.',
    day: new Date().toISOString().slice(0, 10),
  })
  const { isolation } = demoFamily(familyId)
  const unplugged = isolation?.neighbours.map(({ id: each }) => each)
  if (unplugged) await program.send('PUT', `/jobs/${id}/bench`, { isolation: { unplugged } })
  return `${program.address}/jobs/${id}/entry`
}

const now = (page: Page) => page.locator('.coach .acts [data-primary]')
const onceMore = (page: Page) => page.getByRole('button', { name: 'Once more, from power off' })

/**
 * Does the acts by Enter, each as soon as its window is open; `hasty` does the act with that number at once. On a machine
 * that stands still a window may be over before a hand is there: it is done once more, as the page says.
 */
async function work(
  page: Page,
  acts: ReturnType<typeof actsInOrder>,
  hasty: number | null = null,
  triesLeft = 3,
): Promise<void> {
  const again = onceMore(page)
  const begin = page.getByRole('button', { name: 'Begin the entry' })
  await expect(
    begin
      .or(page.getByText(/Act 1 of/))
      .or(page.getByText('The acts are done'))
      .first(),
  ).toBeVisible()
  if (await begin.isVisible()) await begin.press('Enter')
  for (const [index, act] of acts.entries()) {
    if (act.by === 'program') {
      const act = page.getByText(`Act ${index + 1} of`)
      const ownTool = page.getByRole('button', { name: 'I have done it with my own tool' })
      // Where the program has a port it does it over the link; else the person says so.
      // The port is known a moment after the page: a button that stood there until then may be gone under the hand.
      await expect(async () => {
        if (await ownTool.isVisible()) await ownTool.press('Enter', { timeout: 1000 })
        await expect(act).toHaveCount(0, { timeout: 1000 })
      }).toPass()
      continue
    }
    await expect(
      page
        .getByText(`Act ${index + 1} of ${acts.length}`)
        .or(again)
        .first(),
    ).toBeVisible()
    if (act.within && index > 0 && index !== hasty)
      await expect(page.locator('.window.open').or(again).first()).toBeVisible({ timeout: 12_000 })
    if (triesLeft > 0 && (await again.isVisible())) {
      await again.click()
      return work(page, acts, hasty, triesLeft - 1)
    }
    await expect(now(page)).toBeFocused()
    await page.keyboard.press('Enter')
    if (index === hasty) return
  }
  // The last window may have been over as well.
  const asks = page.locator('[data-sign]').or(page.getByRole('heading', { name: 'It is in.' }))
  await expect(again.or(asks).first()).toBeVisible()
  if (triesLeft > 0 && (await again.isVisible())) {
    await again.click()
    return work(page, acts, hasty, triesLeft - 1)
  }
}

// One of each kind of way: power and a held key, an answer typed, a bus, a key switch, a jumper, pins. The script of every family is
// worked by the judge in core/entry/entry.test.ts.
for (const familyId of [
  'fog-signal',
  'marine-radio',
  'buoy-battery',
  'launch-motor',
  'boat-davit',
  'signal-desk',
]) {
  test(`into the bootloader of a ${familyId}: missed first, and told why, then in`, async ({
    page,
    shared,
  }) => {
    const ways = demoFamily(familyId).entry.filter(({ script }) => script)
    await page.goto(await coachOf(shared, familyId))
    for (const way of ways) {
      const script = way.script!
      const acts = actsInOrder(script.acts)
      await test.step(way.name, async () => {
        if (ways.length > 1) await pick(page, 'Which way', way.name)
        const timed = acts.findIndex(
          (act, index) =>
            index > 0 && act.within && act.early && act.by !== 'program' && act.within.minMs >= 1000,
        )
        if (timed >= 0) {
          // Too early: by how much, and what it means. On a machine that stood still it was too late instead.
          await expect(async () => {
            if (await onceMore(page).isVisible()) await onceMore(page).click()
            await work(page, acts, timed)
            // Whoever presses twice still reads what was wrong: it is not begun anew under the hand.
            await page.keyboard.press('Enter')
            await expect(page.locator('.say')).toContainText(acts[timed]!.early!, { timeout: 2000 })
          }).toPass({ timeout: 60_000 })
          await expect(page.locator('.off')).toContainText(/^\d+(\.\d)? (ms|s) too early$/)
        } else {
          // No window to miss: the sign tells it, and the link hears nothing.
          const deaf = '**/api/jobs/*/listen'
          await page.route(deaf, (route) => route.fulfill({ json: { answered: false } }))
          await work(page, acts)
          const bad = script.signs.find(({ tells }) => tells === 'not-in')!
          // The time for its sign may be over before a hand is there, too.
          const again = onceMore(page)
          await expect(async () => {
            if (await again.isVisible()) {
              await again.click()
              await work(page, acts)
            }
            await page.locator(`[data-sign="${bad.id}"]`).click({ timeout: 2000 })
          }).toPass()
          await expect(page.locator('.say')).toContainText(bad.means)
          await expect(page.locator('.failed')).toContainText(bad.do!)
          await page.unroute(deaf)
        }
        await onceMore(page).click()
        await work(page, acts)
        const good = script.signs.find(({ tells }) => tells === 'in')!
        const isIn = page.getByRole('heading', { name: 'It is in.' })
        await expect(page.getByText(`It should: ${good.says.toLowerCase()}.`).or(isIn).first()).toBeVisible()
        // The person says what the unit shows, where the link has not heard the bootloader before.
        await page
          .locator(`[data-sign="${good.id}"]`)
          .click({ timeout: 4000 })
          .catch(() => {})
        await expect(isIn).toBeVisible()
      })
    }
  })
}

test('the coach that is opened does nothing to the unit; with neighbours on the bus the program keeps off the link', async ({
  page,
  shared,
}) => {
  const sent: string[] = []
  page.on('request', (request) => {
    if (request.method() === 'POST') sent.push(new URL(request.url()).pathname.split('/').at(-1)!)
  })
  await page.goto(await coachOf(shared, 'fog-signal'))
  await expect(page.getByRole('button', { name: 'Begin the entry' })).toBeFocused()
  // Longer than the program waits between two questions to the line.
  await page.waitForTimeout(2000)
  expect(sent).toEqual([])
  await page.keyboard.press('Enter')
  await expect.poll(() => sent).toContain('hands')

  const pack = await coachOf(shared, 'buoy-battery')
  await shared.send('PUT', `/jobs/${pack.split('/').at(-2)}/bench`, { isolation: { unplugged: [] } })
  sent.length = 0
  await page.goto(pack)
  await expect(page.getByRole('region', { name: 'The link is shut' })).toContainText('still hang on it')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/Act 1 of/)).toBeVisible()
  await page.waitForTimeout(2000)
  expect(sent.filter((each) => each !== 'hands')).toEqual([])
  await page.getByRole('link', { name: 'Fix it in the job' }).click()
  await expect(page.getByRole('heading', { name: 'Read what the unit says of itself.' })).toBeVisible()
})

// PRACTICE F2, common practice.
test('it does not answer: a swapped pair is named in a few questions, and the last answer can be taken back', async ({
  page,
  shared,
}) => {
  await page.goto(await coachOf(shared, 'mains-relay'))
  // What the program sees by itself (ports, what it was before) moves the questions: it is known first.
  await page.waitForLoadState('networkidle')
  await page.getByRole('button', { name: 'It does not answer' }).click()
  const causes = page.getByRole('list', { name: /Causes/ })
  await expect(causes.locator('li').first()).toBeVisible()
  const heading = page.locator('.ladder .say')
  for (let questions = 0; questions < 8; questions++) {
    if (await page.locator('[data-found]').isVisible()) break
    const asked = (await heading.textContent())!
    const wanted = /two signal wires/.test(asked)
      ? 'No, like goes to like'
      : /unit show/.test(asked)
        ? 'The sign that it is in'
        : await page.locator('.answers button').first().textContent()
    await page.locator('.answers').getByRole('button', { name: wanted!.trim() }).click()
    await expect(heading).not.toHaveText(asked)
  }
  await expect(page.locator('[data-found]')).toHaveText('Transmit and receive are swapped.')
  await expect(page.getByText('Swap the two wires. It harms nothing.')).toBeVisible()
  await page.getByRole('button', { name: 'That was it' }).click()
  await expect(page.getByText(/the next ladder at this bench starts from it/)).toBeVisible()
  await expect
    .poll(async () => (await shared.get('/causes/mains-relay')).map(({ cause }: { cause: string }) => cause))
    .toContain('swapped-pair')
  await page.getByRole('button', { name: 'Take the last answer back' }).click()
  await expect(page.locator('[data-found]')).toHaveCount(0)
  // And so it does: what it was is weighed when the next one at this bench does not answer.
  await page.goto(await coachOf(shared, 'mains-relay'))
  await page.getByRole('button', { name: 'It does not answer' }).click()
  await expect(causes.getByText(/it was this at this bench before/i)).toBeVisible()
})

// PRACTICE L2, common practice: beginners practise on what cannot die.
for (const drillId of ['cut-at-60-fog-signal', 'second-unit-buoy-battery']) {
  test(`the fault drill ${drillId} is worked to its end, an unsafe move said to be one`, async ({
    page,
    program,
  }) => {
    const drill = demoFamilyList.flatMap(faultDrillsOf).find(({ id }) => id === drillId)!
    await page.goto(`${program.address}/drill`)
    await page.getByLabel('Who practises').fill('B. Quill')
    await page.locator(`[data-exercise="fault-${drillId}"]`).getByRole('button', { name: 'Practise' }).click()
    const unsafe = drill.moves.find(({ harm }) => harm === 'unsafe')!
    await page.locator(`[data-move="${unsafe.id}"]`).click()
    await expect(page.locator('[data-judged=unsafe]')).toContainText(unsafe.then)
    for (const move of drill.order) await page.locator(`[data-move="${move}"]`).click()
    await expect(page.getByRole('heading', { name: 'Not yet.' })).toBeVisible()
    await page.getByRole('button', { name: 'Once more' }).click()
    for (const move of drill.order) await page.locator(`[data-move="${move}"]`).click()
    await expect(page.getByRole('heading', { name: 'Passed.' })).toBeVisible()
    // Played on a stand-in: its memory is the truth.
    await expect(page.getByText(/The stand-in’s memory is the image|It says of itself/).first()).toBeVisible()
    await page.getByRole('button', { name: 'To the list' }).click()
    await expect(page.locator(`[data-exercise="fault-${drillId}"]`)).toContainText('100 of 100')
    await page.getByRole('link', { name: /Certificate/ }).click()
    await expect(page.getByRole('heading', { name: 'B. Quill' })).toBeVisible()
    await expect(page.getByText(drill.name)).toBeVisible()
  })
}

test('an entry drill: the hands’ own keys, the sign read from the panel, and every screen passes the rules', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/drill`)
  await page.getByLabel('Who practises').fill('B. Quill')
  const rules = async () => {
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
      .analyze()
    expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([])
  }
  await rules()
  // Cable out with the right hand; then the left holds the button while the right plugs in.
  const hold = async () => {
    await page
      .locator('[data-exercise="entry-tide-logger-button-plug"]')
      .getByRole('button', { name: 'Practise' })
      .click()
    await expect(page.getByRole('heading', { name: 'Cable out.' })).toBeVisible()
    await page.keyboard.press('j')
    await page.keyboard.down('f')
  }
  // The open window passes the rules; they take their time, and this try may come too late.
  await hold()
  await page.keyboard.press('j')
  await expect(page.locator('.window.open')).toBeVisible()
  await rules()
  await page.keyboard.up('f')
  await page.goto(`${program.address}/drill`)
  await hold()
  // When the hand plugged in, when the picture answered, and when the window was drawn as open.
  await page.evaluate(() => {
    const times: Record<string, number> = {}
    Object.assign(window, { times })
    addEventListener('keydown', (event) => event.key === 'j' && (times['plugged'] = performance.now()), true)
    new MutationObserver(() => {
      if (times['plugged'] === undefined) return
      if (document.querySelector('.window')) times['answered'] ??= performance.now()
      if (document.querySelector('.window.open')) times['open'] ??= performance.now()
    }).observe(document.body, { subtree: true, childList: true, attributes: true })
  })
  await page.keyboard.press('j')
  await expect(page.locator('.window.open')).toBeVisible()
  const times = await page.evaluate(() => (window as unknown as { times: Record<string, number> }).times)
  const minMs = 800
  console.log(
    `the screen answers an act after ${Math.round(times['answered']! - times['plugged']!)} ms (wanted: under 50); ` +
      `the window is drawn open ${Math.round(times['open']! - times['plugged']! - minMs)} ms beside the accepted one (wanted: under 20)`,
  )
  // Never drawn open before it is: who acts on what is drawn is never told "too early".
  expect(times['open']! - times['plugged']!).toBeGreaterThanOrEqual(minMs)
  await page.keyboard.up('f')
  await expect(page.getByRole('heading', { name: 'What does the unit show?' })).toBeVisible()
  // Dark is success; who calls it blinking has to look again.
  await page.locator('[data-sign=blinking]').click()
  await expect(page.getByText('Look again')).toBeVisible()
  await page.locator('[data-sign=dark]').click()
  await expect(page.getByText('It is in.')).toBeVisible()
  await expect(page.getByText('The sign was read wrong at first.')).toBeVisible()
  await expect
    .poll(async () => (await program.get('/drills')).find(({ wrong }: { wrong: number }) => wrong === 1))
    .toMatchObject({ by: 'B. Quill', unsafe: 0 })
})

test('the coach by touch alone, with sound off and movement reduced', async ({ browser, shared }) => {
  const context = await browser.newContext({
    hasTouch: true,
    viewport: { width: 390, height: 844 },
    reducedMotion: 'reduce',
  })
  const page = await context.newPage()
  await page.addInitScript(() => localStorage.setItem('bench-wake.sound', 'false'))
  await page.goto(await coachOf(shared, 'tide-logger'))
  await page.getByRole('button', { name: 'Begin the entry' }).tap()
  for (let act = 1; act <= 4; act++) {
    await expect(page.getByText(`Act ${act} of 4`)).toBeVisible()
    if (act === 4) await expect(page.locator('.window.open')).toBeVisible()
    await page.getByRole('button', { name: 'Done, now' }).tap()
  }
  await page
    .locator('[data-sign=dark]')
    .tap({ timeout: 4000 })
    .catch(() => {})
  await expect(page.getByRole('heading', { name: 'It is in.' })).toBeVisible()
  await context.close()
})

test('a script that no hand can do is refused in the editor, at its act', async ({ page, shared }) => {
  await page.goto(`${shared.address}/families/tide-logger`)
  await page.getByRole('button', { name: 'Entry', exact: true }).click()
  // What is folded opens step by step: the way, its script, the act.
  const folded = page.locator('details.entry:not([open]) > summary')
  while ((await folded.count()) > 0) await folded.first().click()
  const most = page.getByLabel('Max ms')
  await most.last().fill('800')
  await expect(page.locator('aside')).toContainText('The window has no width')
  await expect(page.getByRole('button', { name: /^Save revision/ })).toBeDisabled()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.locator('aside')).toContainText('All fields are valid.')
})
