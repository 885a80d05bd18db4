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
