import type { Page, Route } from '@playwright/test'
import { expect, pick, test, unfold } from './program'
import { releaseHolds, rightBench } from './right-bench'

const screens = [
  '/',
  '/units',
  '/units/radio-3',
  '/shelf',
  '/shelf/fits',
  '/families',
  '/families/marine-radio',
  '/rounds',
  '/logbook',
  '/drill',
  '/ports',
  '/adapters',
  '/workshop-rules',
  '/data',
  '/jobs/job-fog-07',
]

test('a screen whose figures do not come says that it waits, and then why', async ({ page, shared }) => {
  for (const path of screens) {
    await test.step(path, async () => {
      let refuse!: () => void
      const refused = new Promise<void>((resolve) => (refuse = resolve))
      await page.route('**/api/**', async (route) => {
        if (/\/api\/(health|access|runs)$/.test(new URL(route.request().url()).pathname))
          return route.fallback()
        await refused
        return route.fulfill({
          status: 503,
          contentType: 'application/problem+json',
          json: {
            type: 'urn:bench-wake:problem:busy',
            kind: 'busy',
            title: 'The disk is busy',
            status: 503,
            says: 'the disk is busy',
            detail: 'The disk is busy.',
            remedy: 'Try again in a minute.',
          },
        })
      })
      await page.goto(shared.address + path)
      const waits = page.locator('main').getByRole('status').or(page.locator('main [aria-busy=true]'))
      await expect(waits.first()).toBeVisible()
      refuse()
      const alert = page.locator('main').getByRole('alert').first()
      await expect(alert).toContainText('The disk is busy')
      await expect(alert).toContainText('Try again in a minute.')
      await page.unrouteAll({ behavior: 'ignoreErrors' })
    })
  }
})

/** Holds back the first answer at a path: it is what the program said then, and comes once it is let go. */
async function holdFirst(page: Page, path: string | RegExp) {
  let go!: () => void
  const allowed = new Promise<void>((resolve) => (go = resolve))
  let held!: () => void
  const isHeld = new Promise<void>((resolve) => (held = resolve))
  let first = true
  await page.route(path, async (route: Route) => {
    if (!first || route.request().method() !== 'GET') return route.fallback()
    first = false
    const response = await route.fetch()
    held()
    await allowed
    return route.fulfill({ response })
  })
  return { isHeld, go }
}

test('what is asked for while an answer is on its way counts, and not the one that comes last', async ({
  page,
  program,
}) => {
  await test.step('a search', async () => {
    await page.goto(`${program.address}/logbook`)
    const rows = page.getByRole('link', { name: /Fog signal/ })
    await expect(rows.first()).toBeVisible()
    const search = await holdFirst(page, /\/api\/logbook\?q=fog/i)
    await page.getByLabel('Search the logbook').fill('fog')
    await search.isHeld
    await page.getByLabel('Search the logbook').fill('no such unit')
    await page.waitForTimeout(400)
    search.go()
    await expect(rows).toHaveCount(0)
  })
  await test.step('a table of what fits', async () => {
    await page.goto(`${program.address}/shelf/fits`)
    const table = page.getByRole('grid')
    await expect(table).toBeVisible()
    const matrix = await holdFirst(page, /\/api\/fit\/matrix\?.*tide-logger/)
    await pick(page, 'Equipment', /Tide logger/)
    await matrix.isHeld
    await pick(page, 'Equipment', /Beacon receiver/)
    matrix.go()
    await expect(table).toContainText('2.4.0')
    await expect(table).not.toContainText(/tide/i)
  })
  await test.step('the job at its bench', async () => {
    const jobId = await rightBench(program, 'tide-logger', 'tide-2026-03-16.dfu')
    await page.goto(`${program.address}/jobs/${jobId}`)
    const wiring = page.locator('[data-part=wiring]')
    const kept = page.waitForResponse(new RegExp(`/api/jobs/${jobId}$`))
    await unfold(wiring)
    await wiring.getByLabel(/Plug fully home/).uncheck()
    await kept
    await expect(page.getByRole('button', { name: /Release this hold/ }).first()).toBeVisible()
    const old = await holdFirst(page, new RegExp(`/api/jobs/${jobId}$`))
    await unfold(page.locator('[data-part=power]'))
    await page.getByLabel('Measured at the unit’s terminals').fill('5.01 V')
    await old.isHeld
    await releaseHolds(page)
    const ready = page.getByRole('heading', { name: /Ready:/ })
    await expect(ready).toBeVisible()
    old.go()
    await page.waitForTimeout(600)
    await expect(ready).toBeVisible()
  })
})

test('a judgement that did not come is asked for again', async ({ page, shared }) => {
  let gone = true
  let asked = 0
  await page.route('**/api/jobs/*/ready*', (route) => {
    asked++
    return gone ? route.abort() : route.fallback()
  })
  const jobId = await rightBench(shared, 'tide-logger', 'tide-2026-03-16.dfu')
  await page.goto(`${shared.address}/jobs/${jobId}`)
  await expect(page.getByRole('heading', { name: /Judging/ })).toBeVisible()
  // All that the page asks as it opens went astray.
  await expect
    .poll(async () => {
      const before = asked
      await page.waitForTimeout(1500)
      return before > 0 && asked === before
    })
    .toBe(true)
  gone = false
  await expect(page.getByRole('heading', { name: /Ready:/ })).toBeVisible()
})

test('what was pressed is waited for without movement, where none is wanted', async ({ page, shared }) => {
  await page.goto(`${shared.address}/units`)
  await page.getByRole('button', { name: 'Add a unit' }).click()
  await page.getByLabel('Serial', { exact: false }).first().fill('WAIT-1')
  await page.route('**/api/units', (route) =>
    route.request().method() === 'POST' ? undefined : route.fallback(),
  )
  await page.keyboard.press('Enter')
  const ring = page.locator('main .n-button .n-base-loading svg').first()
  // The kit's own picture would move on, hidden, and take half a processor from the program that is waited for.
  await expect
    .poll(() => ring.evaluate((picture) => (picture as SVGSVGElement).animationsPaused()))
    .toBe(true)
  await expect.poll(() => page.evaluate(() => document.getAnimations().length)).toBe(0)
  expect(
    await page.evaluate(() =>
      Math.max(
        ...[...document.querySelectorAll('*')].map((each) =>
          parseFloat(getComputedStyle(each).transitionDuration),
        ),
      ),
    ),
  ).toBeLessThanOrEqual(0.001)
  await page.unrouteAll({ behavior: 'ignoreErrors' })
})

test('very long names break, and push nothing off the screen', async ({ page, program }) => {
  const long = 'Harbour-light-controller-'.repeat(8)
  const { id } = await program.send('POST', '/units', {
    name: long,
    place: long,
    serial: 'X'.repeat(80),
    familyId: 'fog-signal',
  })
  for (const size of [
    { width: 1280, height: 800 },
    { width: 390, height: 844 },
  ]) {
    await page.setViewportSize(size)
    for (const path of ['/units', `/units/${id}`]) {
      await page.goto(program.address + path)
      await expect(page.getByText(long).first()).toBeVisible()
      const width = () => page.evaluate(() => document.documentElement.scrollWidth)
      await expect.poll(width, `${path} at ${size.width}`).toBeLessThanOrEqual(size.width)
    }
  }
})

test('with the colours of the system verdicts still differ by their shape, and the focus is seen', async ({
  page,
  shared,
}) => {
  await page.emulateMedia({ forcedColors: 'active' })
  await page.goto(`${shared.address}/`)
  const marks = page.locator('main table svg')
  await expect(marks.first()).toBeVisible()
  const shapes = await marks.evaluateAll((all) => new Set(all.map((mark) => mark.innerHTML)).size)
  expect(shapes).toBeGreaterThan(1)
  await page.keyboard.press('Tab')
  await page.keyboard.press('Tab')
  const outline = await page.evaluate(() => getComputedStyle(document.activeElement!).outlineStyle)
  expect(outline).not.toBe('none')
})
