import { demoBenches, demoFamily, firstUnitOf } from '@bench-wake/demo'
import type { Page } from '@playwright/test'
import { expect, type Program } from './program'

const today = new Date().toISOString().slice(0, 10)

/** Opens a job for the family's first unit with everything right, over the public paths. */
export async function rightBench(program: Program, familyId: string, image: string): Promise<string> {
  const unit = firstUnitOf(familyId)
  const family = demoFamily(familyId)
  const lines = Object.assign({}, ...unit.pages.map((page) => page.lines)) as Record<string, string>
  await program.send('POST', `/units/${unit.id}/snapshots`, {
    source: 'menu',
    lines: family.snapshot.flatMap(({ field, label }) =>
      lines[field] === undefined ? [] : [{ field, label, value: lines[field] }],
    ),
  })
  if (familyId === 'marine-radio') {
    await program.send('POST', `/units/${unit.id}/answers`, {
      question: 'signal-output',
      answer: 'low-channel',
      by: 'T. Reader',
    })
  }
  const images = (await program.get('/images')) as { id: string; names: string[] }[]
  const imageId = images.find(({ names }) => names.includes(image))!.id
  const { id } = await program.send('POST', '/jobs', {
    unitId: unit.id,
    imageId,
    kind: 'feature',
    reason: 'Judge the bench.',
    day: today,
  })
  await program.send('PUT', `/jobs/${id}/bench`, demoBenches[familyId])
  const { kit } = await program.get(`/jobs/${id}`)
  for (const item of kit) await program.send('PUT', `/kit/${today}`, { item: item.id, packed: true })
  return id as string
}

/** What the newest run of a job has come to, read over the public path as a second device would. */
export interface Told {
  id: string
  outcome: string
  leg: number
  acknowledged: number
  goesOnAt: number | null
  open: number | null
  steps: { kind: string }[]
  facts: { component: { id: string }; image: { bytes: number } }
  prompt: { prompt: string; says: string; answers: { id: string }[] } | null
  supply: { volts: number }[]
}
export async function newest(program: Program, jobId: string): Promise<Told> {
  const { runs } = await program.get(`/jobs/${jobId}`)
  return { id: runs[0]?.id, ...runs[0]?.state }
}

/** The button that answers a run's question. */
export const answerOf = (page: Page) =>
  page.locator('.deck .acts [data-primary]:not(:has-text("Start the run"))')

/** Answers on the screen whatever a run asks, as a person would, until `when` holds; what it had come to then. */
export async function work(
  page: Page,
  program: Program,
  jobId: string,
  when: (told: Told) => boolean,
): Promise<Told> {
  for (;;) {
    const told = await newest(program, jobId)
    if (told.id !== undefined && when(told)) return told
    if (told.prompt)
      await answerOf(page)
        .click({ timeout: 1000 })
        .catch(() => {})
    else await page.waitForTimeout(15)
  }
}

/** Starts the next run of a job and works it to its end. */
export async function workNext(page: Page, program: Program, jobId: string): Promise<Told> {
  const before = (await newest(program, jobId)).id
  await page.getByRole('button', { name: 'Start the run' }).click()
  return work(page, program, jobId, ({ id, outcome }) => id !== before && outcome !== 'running')
}

/** Releases by name what is only the owner's to agree to, such as a way that leads no way back. */
export async function releaseHolds(page: Page) {
  const heading = page.locator('.deck h2.say')
  await expect(heading).not.toContainText('Judging')
  for (let left = 4; left > 0 && !(await heading.textContent())!.includes('Ready'); left--) {
    const release = page.getByRole('button', { name: /Release this hold/ }).first()
    if (!(await release.isVisible().catch(() => false))) break
    await release.click()
    await page.locator('dialog.release').getByLabel('Your name').fill('A. Lund')
    await page.locator('dialog.release').getByLabel('Reason').fill('the owner agrees')
    await page.getByRole('button', { name: 'Release the hold' }).click()
    await page.waitForTimeout(150)
  }
}
