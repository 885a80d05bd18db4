import { demoFamily, firstUnitOf, handfulOf, inverterBundle, type Kind } from '@bench-wake/demo'
import type { Page } from '@playwright/test'
import { expect, test, unfold } from './program'

/** A unit's page as its menu would show it, line by line. */
function pageOf(unitId: string, familyId: string): string {
  const { snapshot } = demoFamily(familyId)
  const unit = firstUnitOf(familyId)
  const lines = Object.assign({}, ...unit.pages.map((page) => page.lines)) as Record<string, string>
  if (unit.id !== unitId) throw new Error(unitId)
  return snapshot
    .flatMap(({ field, label }) => (lines[field] === undefined ? [] : [`${label}: ${lines[field]}`]))
    .join('\n')
}

/** Pastes the page at the unit's own place, where that can always be done, and opens a job of it. */
async function readAgain(page: Page, address: string, unitId: string, familyId: string, jobId: string) {
  await page.goto(`${address}/units/${unitId}`)
  await pastePage(page, pageOf(unitId, familyId))
  await expect(page.getByRole('button', { name: 'Save this page' })).toHaveCount(0)
  await page.goto(`${address}/jobs/${jobId}`)
}

async function pastePage(page: Page, text: string) {
  await page.getByRole('button', { name: 'Paste its page' }).click()
  await page.getByLabel('The whole page, as it was copied').fill(text)
  await page.getByRole('button', { name: 'Save this page' }).click()
}

/** What a technician should read beside each file of the handful (PRACTICE B1, B2, B4, B6; common practice). */
const reads: Record<Exclude<Kind, 'right' | 'renamed'>, RegExp> = {
  'other-revision': /The image is for hardware \d+; this unit is/,
  // Where all components go together, an older release of one alone leads nowhere.
  older:
    /There is no way: the image of 3\.2|The image is older than what is on the unit|The unit has AMBER too, with other bytes/,
  // A test release of one joint alone leads nowhere: all joints go together.
  test: /This is a test release|Nobody can say whether|There is no way: the image of (5\.3|3\.7)/,
  'other-component': /is for another part of it|is for other equipment/,
  'look-alike': /The image is for .+; this unit is/,
}
const stops: Kind[] = ['other-revision', 'other-component', 'look-alike']

// One of each kind: plain, with a statement, with parts that go together. All others: core/fit/fit.test.ts.
for (const familyId of ['fog-signal', 'marine-radio', 'station-inverter']) {
  test(`a handful of files for a ${familyId}: each with its verdict and its reason`, async ({
    page,
    shared,
  }) => {
    const unit = firstUnitOf(familyId)
    const files = handfulOf(familyId)
    const { together } = demoFamily(familyId).updates
    await page.goto(`${shared.address}/shelf`)
    await page.getByLabel('Image file').setInputFiles(
      files.map(({ name, file }) => ({
        name,
        mimeType: 'application/octet-stream',
        buffer: Buffer.from(file),
      })),
    )
    // PRACTICE B2: equal bytes under another name are one image with two names.
    const renamed = files.find(({ kind }) => kind === 'renamed')!.name
    await expect(page.locator('.came')).toHaveCount(files.length, { timeout: 30_000 })
    await expect(page.locator('.came', { hasText: 'The same image lay here as' }).first()).toBeVisible()
    const images = (await shared.get('/images')) as { id: string; names: string[] }[]
    const right = images.find(({ names }) => names.includes(files[0]!.name) && names.includes(renamed))!
    expect(right, 'equal bytes are one image').toBeDefined()
    const idOf = (name: string) =>
      name === renamed || name === files[0]!.name
        ? right.id
        : // Another of that name may lie here already; the list is oldest first.
          images.findLast(({ names }) => names.includes(name))!.id

    await page.goto(`${shared.address}/units/${unit.id}`)
    if (familyId === 'marine-radio') {
      await page.getByText(/a low channel/).click()
      await page.getByLabel('Who says so').fill('T. Reader')
      await page.getByRole('button', { name: 'Save answer' }).click()
      await expect(page.getByText(/T\. Reader,/)).toBeVisible()
    }
    await pastePage(page, pageOf(unit.id, familyId))
    await expect(page.getByRole('button', { name: 'Save this page' })).toHaveCount(0)
    await page.getByRole('button', { name: 'Start a job' }).click()
    await page.getByText('A feature', { exact: true }).click()
    await page.getByLabel('In a sentence').fill('Judge the handful.')
    await page.getByRole('button', { name: 'Open the job' }).click()
    await expect(page.getByRole('heading', { name: 'Choose the image.' })).toBeVisible()
    const others = page.getByRole('button', { name: 'Show them too' })
    // The list grows while it is judged, and a button that moves under the mouse takes no click.
    await expect(page.locator(`li[data-image="${right.id}"][data-verdict]`)).toBeVisible()
    await expect(async () => {
      if (await others.isVisible()) await others.click({ timeout: 1000 })
      await expect(others).toHaveCount(0, { timeout: 1000 })
    }).toPass()

    for (const { kind, name } of files) {
      const row = page.locator(`li[data-image="${idOf(name)}"]`)
      await expect(row, `${kind}: ${name}`).toBeVisible()
      if (kind === 'right' || kind === 'renamed') {
        await expect(row, name).toHaveAttribute('data-verdict', /go|note|hold/)
        await expect(row.getByRole('button', { name: 'Take this one' })).toBeVisible()
        continue
      }
      if (kind === 'other-component' && together) {
        // All components of such a unit are brought up together: the image is told apart and is one of the steps.
        await expect(row).toContainText(/Processor B, panel|Joint 1, shoulder/)
        continue
      }
      await expect(row, `${kind}: ${name}`).toContainText(reads[kind])
      if (stops.includes(kind)) {
        await expect(row).toHaveAttribute('data-verdict', 'stop')
        await expect(row.getByRole('button')).toHaveCount(0)
      }
    }
  })
}

// PRACTICE B2, B3, A5: unhelpful names in one archive, the notes beside them.
test('an archive with two files of unhelpful names is told apart, its notes shown', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/shelf`)
  const { file } = inverterBundle()
  await page
    .getByLabel('Image file')
    .setInputFiles({ name: 'download(2).zip', mimeType: 'application/zip', buffer: Buffer.from(file) })
  const came = page.locator('.came')
  await expect(came).toContainText('download(2).zip held 2 images and 2 notes')
  await expect(came).toContainText('rel/img1.hex is Processor A of a Light-station inverter')
  await expect(came).toContainText('rel/img2.hex is Processor B, panel of a Light-station inverter')
  await came.getByRole('link', { name: 'rel/img1.hex' }).click()
  await expect(page.getByRole('heading', { name: /processor A 3\.6/ })).toBeVisible()
  await expect(page.getByText('Write A first, then B. B takes longer.')).toBeVisible()
  await expect(page.locator('.facts')).toContainText('from 3.0')
})

// PRACTICE B5: 5.1 with 5.2.0 and 5.2.1 published is two hops; A5: six joints from base to wrist.
test('a davit two releases behind gets its two hops, each joint in order', async ({ page, shared }) => {
  await readAgain(page, shared.address, 'davit-1', 'boat-davit', 'job-davit-1')
  await expect(page.locator('[data-need=do]')).toContainText('5.2.1 cures it')
  const way = page.getByRole('region', { name: 'The way' }).locator('li')
  await expect(page.getByText('Two steps, 12 writes: 5.2.0, then 5.2.1.').first()).toBeVisible()
  await expect(way).toHaveCount(12)
  await expect(way.nth(0)).toContainText('Joint 0')
  await expect(way.nth(0)).toContainText('5.1 → 5.2.0')
  await expect(way.nth(5)).toContainText('Joint 5')
  await expect(way.nth(11)).toContainText('5.2.0 → 5.2.1')
})

// PRACTICE B12: no way back is said before the update, not after; B5: a stepping stone.
test('the launch motor goes by way of 3.6, and is held because there is no way back', async ({
  page,
  shared,
}) => {
  await readAgain(page, shared.address, 'launch-2', 'launch-motor', 'job-launch-2')
  const way = page.getByRole('region', { name: 'The way' })
  await expect(way.locator('li')).toHaveCount(2)
  await expect(way).toContainText('3.2 → 3.6')
  await expect(way).toContainText('no way back from here')
  const fit = page.locator('[data-part=fit]')
  await expect(fit).toHaveAttribute('data-verdict', 'hold')
  await unfold(fit)
  await expect(page.locator('[data-rule=way-back]').first()).toContainText('There is no way back from 4.1.')
})

// PRACTICE A2: "nothing to do" comes before any soldering.
test('a battery of a batch that was brought up before it was sold: nothing to do, and the job is closed so', async ({
  page,
  shared,
}) => {
  await page.goto(`${shared.address}/jobs/job-battery-21`)
  const need = page.locator('[data-need=nothing]')
  await expect(need).toContainText('units of this batch were brought to 58.04 before they were sold')
  await expect(need).toContainText('before you open or solder anything')
  await need.getByLabel('Your name').fill('A. Lund')
  await need.getByRole('button', { name: 'Close it: nothing to do' }).click()
  await expect(page.getByRole('heading', { name: 'Nothing to do.' })).toBeVisible()
})

// PRACTICE B8, L1: what was asked of whom, what was answered and by whom; a missing image holds the job.
test('an image that a supplier owes holds the job until it comes', async ({ page, shared }) => {
  await page.goto(shared.address)
  await expect(page.locator('tr', { hasText: 'Beacon receiver 8' })).toContainText(
    'The image is still awaited',
  )
  await page.goto(`${shared.address}/units/beacon-8`)
  const request = page.locator('[data-request]')
  await expect(request).toContainText('R. Tolland')
  await request.getByRole('button', { name: 'Write down an answer' }).click()
  await request.getByLabel('What was answered').fill('On its way.')
  await request.getByLabel('By whom').fill('R. Tolland')
  await request.getByRole('button', { name: 'Save answer' }).click()
  await expect(request).toContainText('“On its way.”')
  await request.getByRole('button', { name: 'Settle it' }).click()
  await request.getByRole('button', { name: 'Settle it' }).click()
  await expect(request).toContainText('settled')
  await page.getByRole('button', { name: 'Ask a supplier' }).click()
  await page.getByLabel('What you ask for').fill('The release notes of 2.4.0')
  await page.getByLabel('Of whom').fill('the key desk')
  await page.getByRole('button', { name: 'Save request' }).click()
  await expect(page.locator('[data-request]').first()).toContainText('The release notes of 2.4.0')
})

// PRACTICE A7, B5: two schools; the workshop decides, and every judgement says which it applied.
test('the workshop rule turns a hold into a go', async ({ page, program }) => {
  await page.goto(`${program.address}/workshop-rules`)
  await page.getByText(/To keep everything current/).click()
  await page.getByLabel('Your name').fill('A. Lund')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText(/Set by A\. Lund/)).toBeVisible()
  await page.goto(`${program.address}/jobs/job-fog-02`)
  await expect(page.locator('[data-need=do]')).toContainText('keep everything current')
})
