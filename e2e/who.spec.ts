import { createClient } from '@libsql/client'
import type { Locator, Page } from '@playwright/test'
import { networkInterfaces } from 'node:os'
import { join } from 'node:path'
import { setTimeout } from 'node:timers/promises'
import { expect, pick, powerUp, Program, setSpeed, test } from './program'

const password = 'three grey seals'

/** A program that others in the network can reach. */
const open = test.extend<{ reached: Program }>({
  // eslint-disable-next-line no-empty-pattern
  reached: async ({}, use) => {
    const program = new Program(undefined, {
      BENCH_WAKE_HOST: '0.0.0.0',
      BENCH_WAKE_TLS: 'none',
      BENCH_WAKE_PASSWORD: password,
    })
    await program.start()
    await use(program)
    await program.leave()
  },
})

/** Source: WCAG 2.2, 1.4.10: at 320 pixels what stands in a row is under each other, and nothing lies beside the page. */
async function fitsNarrow(page: Page, row: Locator): Promise<void> {
  const wide = page.viewportSize()!
  await page.setViewportSize({ width: 320, height: 800 })
  await expect(row).toBeVisible()
  await expect.poll(() => page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(320)
  await page.setViewportSize(wide)
}

open(
  'others sign in, and a phone joins by a code and coaches beside the unit',
  async ({ page, browser, reached }) => {
    const { port } = new URL(reached.address)
    const address = Object.values(networkInterfaces())
      .flatMap((all) => all ?? [])
      .find(({ family, internal }) => family === 'IPv4' && !internal)?.address
    const host = address ?? '127.0.0.1'
    await page.goto(`http://${host}:${port}/`)
    await expect(page.getByRole('heading', { name: 'Who works here?' })).toBeVisible()
    await expect(page.getByText('Nothing is encrypted')).toBeVisible()
    // Nothing of the work can be seen through it.
    await expect(page.getByRole('navigation', { name: 'Places' })).toHaveCount(0)

    await page.getByLabel('Your name').fill('M. Tarn')
    await page.getByLabel('Password', { exact: true }).fill('not it at all')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await expect(page.getByRole('alert')).toContainText('This is not the password')
    await page.getByLabel('Password', { exact: true }).fill(password)
    await page.getByRole('button', { name: 'Sign in' }).click()
    await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible()

    // The phone scans what the first device shows. Asked for while the devices are still read, it comes and stays.
    const devices = '**/api/access/devices'
    await page.route(devices, async (route) => {
      await setTimeout(1500)
      await route.continue()
    })
    await page.getByRole('link', { name: 'M. Tarn works here: change' }).click()
    await page.getByRole('button', { name: 'Show a code' }).click()
    await expect(page.getByRole('img', { name: 'Code for the second device' }).locator('svg')).toBeVisible()
    await page.unrouteAll({ behavior: 'wait' })
    const link = await page.locator('.link').innerText()
    expect(link).toContain(`:${port}/join#code=`)
    const phoneContext = await browser.newContext({
      viewport: { width: 390, height: 844 },
      hasTouch: true,
      isMobile: true,
    })
    const phone = await phoneContext.newPage()
    await phone.goto(link)
    await expect(phone.getByRole('heading', { name: 'Join this device' })).toBeVisible()
    await phone.getByLabel('Your name').fill('A. Ness')
    await phone.getByLabel('This device').fill('Phone')
    await phone.getByRole('button', { name: 'Join' }).tap()
    await expect(phone.getByRole('navigation', { name: 'Places' })).toBeVisible()
    expect(new URL(phone.url()).hash).toBe('')
    // The first device sees it come, and the code goes.
    await expect(page.getByRole('cell', { name: 'A. Ness' })).toBeVisible()
    await expect(page.getByRole('img', { name: 'Code for the second device' })).toHaveCount(0)

    // The laptop starts the run; the phone asks and is answered there.
    await page.goto(`http://${host}:${port}/jobs/job-fog-07`)
    await phone.goto(`http://${host}:${port}/jobs/job-fog-07`)
    await page.getByRole('button', { name: 'Read the unit' }).click()
    await setSpeed(page, '10')
    await page.getByRole('button', { name: 'Start the run' }).click()
    await powerUp(phone)
    // Answered on the phone, it goes on at the laptop: it is written, and on a slow day asks for its restart by then.
    const restart = page.getByRole('heading', { name: /supply off\. Count five\. Switch it on/ })
    const goesOn = page.getByText(/left of this/).or(restart)
    await expect(goesOn.first()).toBeVisible({ timeout: 90_000 })
    await expect(page.getByRole('heading', { name: 'Battery switch S1 on.' })).toHaveCount(0)

    // Signed out from the first device, the phone shows nothing any more.
    await page.goto(`http://${host}:${port}/who`)
    await fitsNarrow(page, page.getByRole('cell', { name: 'A. Ness' }))
    await page
      .getByRole('row', { name: /A\. Ness/ })
      .getByRole('button', { name: 'Sign it out' })
      .click()
    await page.getByRole('button', { name: 'Confirm' }).click()
    await expect(page.getByRole('cell', { name: 'A. Ness' })).toHaveCount(0)
    // What was done is told, to eyes and to a screen reader.
    await expect(page.locator('.n-message')).toHaveText('It is signed out.')
    await expect(page.getByRole('status').getByText('It is signed out.')).toHaveCount(1)
    await phone.reload()
    await expect(phone.getByRole('heading', { name: 'Who works here?' })).toBeVisible()
    await phoneContext.close()

    await page.getByRole('button', { name: 'Sign out' }).click()
    await expect(page.getByRole('heading', { name: 'Who works here?' })).toBeVisible()
  },
)

test('a name is said once, and stands under what is signed', async ({ page, program }) => {
  await page.goto(`${program.address}/who`)
  await page.getByLabel('Your name').fill('M. Tarn')
  await page.goto(`${program.address}/workshop-rules`)
  await expect(page.getByLabel('Your name')).toHaveValue('M. Tarn')
  await expect(page.getByRole('link', { name: 'M. Tarn works here: change' })).toBeVisible()
})

test('dates, decimals, temperatures and leads are written as this browser wants them', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/who`)
  const sample = page.getByLabel('Dates and units').getByRole('status')
  await expect(sample).toContainText(
    /^\d{4}-\d{2}-\d{2}, \d{2}:\d{2}: 12\.60 V at 15 °C over a lead of 2\.50 mm²/,
  )
  await pick(page, 'Dates, times and decimals', /^Germany/)
  await pick(page, 'Temperature', '°F')
  await pick(page, 'Lead size', 'AWG')
  await expect(sample).toContainText('12,60 V at 59 °F over a lead of between 13 and 14 AWG (2,50 mm²)')

  // A figure without a unit is read in the chosen one: 14 AWG is 2.081 mm² (ASTM B258), 68 °F are 20 °C.
  await page.goto(`${shared.address}/sums?sum=lead-drop`)
  const lost = page.locator('dd').first()
  await page.getByLabel('Cross-section').fill('2.081 mm2')
  await page.getByLabel('Temperature').fill('20 °C')
  const said = await lost.textContent()
  expect(said).toMatch(/^\d+,\d\d V$/)
  await page.getByLabel('Cross-section').fill('14')
  await page.getByLabel('Temperature').fill('68')
  await expect(lost).toHaveText(said!)
  await page.getByLabel('Temperature').fill('68 °C')
  await expect(lost).not.toHaveText(said!)

  await page.goto(`${shared.address}/who`)
  await page.getByRole('button', { name: 'As it was at first' }).click()
  await expect(sample).toContainText('12.60 V at 15 °C')
})

test('a backup is made, and what could not be read is mended and put back', async ({ page, program }) => {
  await program.end('SIGTERM')
  const client = createClient({ url: `file:${join(program.folder, 'bench-wake.db')}` })
  const [before] = (await client.execute("select symptoms from jobs where id = 'job-fog-07'")).rows
  await client.execute("update jobs set symptoms = '[' where id = 'job-fog-07'")
  client.close()
  await program.start()

  await page.goto(program.address)
  await expect(page.getByText('Damaged in the data: 1.')).toBeVisible()
  await page.getByRole('link', { name: 'See which' }).click()
  await expect(page.getByText('jobs, job-fog-07')).toBeVisible()
  await page.getByRole('button', { name: 'Show row' }).click()
  await page.getByRole('button', { name: 'Restore this row' }).click()
  await expect(page.getByRole('alert')).toContainText('still cannot be read')
  await page.getByLabel('symptoms').fill(String(before!['symptoms']))
  await page.getByRole('button', { name: 'Restore this row' }).click()
  await expect(page.getByText('The row is back in its place.')).toBeVisible()
  await expect(page.getByText('jobs, job-fog-07')).toHaveCount(0)

  await page.getByRole('button', { name: 'Back up now' }).click()
  await expect(page.getByText(/was made and checked/)).toBeVisible()
  await fitsNarrow(page, page.getByRole('button', { name: 'Restore', exact: true }))
  await page.getByRole('button', { name: 'Restore', exact: true }).click()
  await page.getByRole('button', { name: 'Confirm' }).click()
  await expect(page.getByText('Restarting on the backup…')).toBeVisible()
  // The page comes back by itself once the program has.
  await expect(page.getByText('Restarting on the backup…')).toHaveCount(0, { timeout: 30_000 })
  await expect(page.getByText(/The data are those of the backup/)).toBeVisible()
  await page.goto(`${program.address}/jobs/job-fog-07`)
  await expect(page.getByRole('heading', { name: 'Read what the unit says of itself.' })).toBeVisible()
})

test('an image that nothing rests on is taken off the shelf and put back', async ({ page, program }) => {
  await page.goto(`${program.address}/shelf`)
  await page.getByLabel('Image file').setInputFiles({
    name: 'spare.hex',
    mimeType: 'text/plain',
    buffer: Buffer.from(':02000000429923\n:00000001FF\n'),
  })
  await page.locator('tr[data-image="spare.hex"] a').first().click()
  await page.getByRole('button', { name: 'Remove from the shelf' }).click()
  await expect(page.getByText('spare.hex is off the shelf.')).toBeVisible()
  await expect(page.locator('tr[data-image="spare.hex"]')).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.locator('tr[data-image="spare.hex"]')).toBeVisible()
  // One that a job rests on stays, and says why.
  const { imageId } = (await program.get('/jobs/job-fog-07')).job
  await page.goto(`${program.address}/shelf/${imageId}`)
  await page.getByRole('button', { name: 'Remove from the shelf' }).click()
  await expect(page.getByRole('alert')).toContainText('Work of this bench rests on this image')
})
