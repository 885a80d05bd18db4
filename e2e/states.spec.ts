import { expect, test } from './program'

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
