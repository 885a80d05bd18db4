import type { Page } from '@playwright/test'
import { demoFamily } from '@bench-wake/demo'
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, pick, setSpeed, test, unfold, type Program } from './program'
import { newest, type Told, releaseHolds, rightBench, work, workClosing } from './right-bench'

/* A chip on a clip (JEDEC serial flash): nothing of the unit runs, its memory is read and written by itself. */

test('a desk’s chip is written on a clip: refused while a leg is loose, then proved byte by byte', async ({
  page,
  program,
}) => {
  const port = 'stand-in:desk-2'
  const before = (await program.get('/units/desk-2')) as { facts: { versions: Record<string, string> } }
  expect(before.facts.versions['chip']).toBe('AMBER')
  const jobId = await rightBench(program, 'signal-desk', 'birch-brass.rom', 'desk-2')

  // The clip is seated badly by the hand that would seat it.
  await page.goto(`${program.address}/ports`)
  await pick(page, 'How the clip sits: Signal desk, brass keys', 'clip: one leg is loose')
  await page.goto(`${program.address}/jobs/${jobId}`)
  await unfold(page.locator('[data-part=wiring]'))
  await page.getByRole('checkbox', { name: /only the blocks that differ/ }).click()
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
  expect(JSON.stringify(record)).toMatch(/ of 32 blocks hold already what they should/)
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
  // The ports are read again every two seconds: what was answered stays in its row.
  for (let more = 2; more > 0; more--) await page.waitForResponse(/\/api\/ports$/)
  await expect(row).toContainText('Can: chip on a clip, six-line port')
  await expect(logger).toContainText('no debug adapter that this program knows')
})

test('a board is written over six lines: a fuse that would lock out is held, another one is set', async ({
  page,
  program,
}) => {
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
  // A switch is turned by Space too (ARIA Authoring Practices).
  const port = guard.getByRole('switch', { name: 'Guard, Six-line port' })
  const stood = await port.getAttribute('aria-checked')
  await port.focus()
  await page.keyboard.press('Space')
  await expect(port).not.toHaveAttribute('aria-checked', stood ?? '')
  await expect(port).toBeFocused()
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

/** A folder as a browser gives one: its files stand in the order in which they were made. */
const cardInPage = (page: Page, files: Record<string, string>) =>
  page.addInitScript((first) => {
    const held = new Map<string, Uint8Array>(
      Object.entries(first).map(([name, text]) => [name, new TextEncoder().encode(text)]),
    )
    const fileOf = (name: string) => ({
      kind: 'file',
      name,
      getFile: async () => new File([held.get(name)! as BlobPart], name),
      createWritable: async () => ({
        write: async (bytes: Uint8Array) => void held.set(name, bytes.slice()),
        close: async () => {},
      }),
    })
    const card = {
      kind: 'directory',
      name: 'card',
      async *values() {
        for (const name of [...held.keys()]) yield fileOf(name)
      },
      removeEntry: async (name: string) => void held.delete(name),
      getFileHandle: async (name: string) => {
        if (!held.has(name)) held.set(name, new Uint8Array(0))
        return fileOf(name)
      },
    }
    const shown = window as unknown as { showDirectoryPicker: () => Promise<unknown>; card: typeof held }
    shown.card = held
    shown.showDirectoryPicker = async () => card
  }, files)

for (const [familyId, unitId, image, version, other] of [
  ['helm-display', 'helm-1', 'helm-3.2.hex', '3.2', true],
  ['davit-base', 'davit-base-1', 'davit-base-2.6.hex', '2.6', false],
] as const) {
  test(`${unitId}: the files are written in order, another order is found, and the unit takes them`, async ({
    page,
    program,
  }) => {
    const jobId = await rightBench(program, familyId, image, unitId)
    await cardInPage(page, other ? { 'OLD.BIN': 'left from last year' } : {})
    await page.goto(`${program.address}/jobs/${jobId}`)
    const part = page.locator('[data-part=card]')
    await unfold(part)
    // PRACTICE B11: what the unit will ask is known before anything is begun.
    const medium = demoFamily(familyId).links[0]!.medium!
    await unfold(part.locator('.asks'))
    for (const { shows } of medium.update!.prompts) await expect(part.locator('.asks')).toContainText(shows)
    const write = part.getByRole('button', { name: /Write them onto the (USB|memory)/ })
    if (other) {
      await write.click()
      await expect(part.getByRole('alert')).toContainText('In the way: OLD.BIN')
      await page.evaluate(() => (window as unknown as { card: Map<string, unknown> }).card.delete('OLD.BIN'))
    }
    await part.getByLabel(/^Size of the .*, GB$/).fill('1')
    await write.click()
    await expect(part).toContainText('files were read back')
    // Somebody copies the first one anew: it stands last now, and the unit would not find its files.
    await page.evaluate(() => {
      const { card } = window as unknown as { card: Map<string, unknown> }
      const [name, bytes] = [...card][0]!
      card.delete(name)
      card.set(name, bytes)
    })
    await part.getByRole('button', { name: 'Check one that is written' }).click()
    await expect(part).toContainText('in another order')
    await expect(page.getByRole('button', { name: 'Start the run' })).toBeDisabled()
    await write.click()
    await expect(part).toContainText('files were read back')
    // The image that the program gives for the whole card is checked by its own directory; a file that is none is refused.
    const volume = await page.request.get(`${program.address}/api/jobs/${jobId}/card.img`)
    const [whole, noise] = ['card.img', 'noise.img'].map((name) => join(program.folder, name))
    writeFileSync(whole!, await volume.body())
    writeFileSync(noise!, Buffer.alloc(2048, 7))
    await part.getByLabel('Image of the card').setInputFiles(whole!)
    await expect(part).toContainText('files were read back')
    await part.getByLabel('Image of the card').setInputFiles(noise!)
    await expect(part.getByRole('alert')).toContainText('no card that can be read')
    // Its stand-in has a card of its own, which somebody touches too.
    const slot = part.getByRole('group', { name: 'Stand-in' })
    await slot.getByRole('button', { name: /^Write them onto/ }).click()
    await pick(page, 'What happened to it since', /copied its first file/)
    await slot.getByRole('button', { name: /^Check the/ }).click()
    await expect(part).toContainText('in another order')
    await slot.getByRole('button', { name: /^Write them onto/ }).click()
    await expect(part).toContainText('files were read back')
    await releaseHolds(page)
    await page.getByRole('button', { name: 'Start the run' }).click()
    const seen: string[] = []
    const screens: string[] = []
    const told = await byHandWork(page, program, jobId, version, seen, screens)
    expect(told.outcome).toBe('proved')
    for (const { answer } of medium.update!.prompts) expect(seen.join('\n')).toContain(answer)
    // What the stand-in showed meanwhile: its search, each question, and the new version, which is what was said then.
    const shown = screens.join('\n')
    for (const line of [
      medium.update!.searches,
      ...medium.update!.prompts.map(({ shows }) => shows),
      version,
    ])
      expect(shown).toContain(line)
    await expect(
      page.getByRole('heading', { name: new RegExp(`The unit says ${version} itself`) }),
    ).toBeVisible()
    await page.getByLabel('Your name').fill('T. Reader')
    await workClosing(page)
    await page.getByRole('button', { name: 'Close the job' }).click()
    await expect(page.getByRole('heading', { name: 'Proved and fit for use.' })).toBeVisible()
  })
}

/** Answers what hands are asked, and says that the unit shows what was wanted. */
async function byHandWork(
  page: Page,
  program: Program,
  jobId: string,
  version: string,
  seen: string[],
  screens: string[] = [],
): Promise<Told> {
  const answers: Record<string, string> = { 'media.found': 'It shows that', look: version }
  for (;;) {
    const told = await newest(program, jobId)
    if (told.id !== undefined && told.outcome !== 'running') return told
    if (!told.prompt) {
      await page.waitForTimeout(150)
      continue
    }
    const { prompt, says } = told.prompt
    await expect(page.locator('.deck h2.say')).toContainText(says)
    seen.push(says)
    if (['media.found', 'look'].includes(prompt) || prompt.startsWith('media.prompt'))
      screens.push(await page.locator('.deck .screen').innerText({ timeout: 20_000 }))
    await page.getByRole('button', { name: answers[prompt] ?? 'Done', exact: true }).click()
    await expect.poll(async () => (await newest(program, jobId)).prompt?.prompt).not.toBe(prompt)
  }
}
