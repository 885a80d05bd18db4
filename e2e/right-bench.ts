import type { Page } from '@playwright/test'
import { byMouse, type Use } from './keys'
import { expect, type Program } from './program'

export { rightBench } from '@bench-wake/demo'

/** What the newest run of a job has come to, read over the public path as a second device would. */
export interface Told {
  id: string
  outcome: string
  leg: number
  acknowledged: number
  goesOnAt: number | null
  open: number | null
  steps: { kind: string }[]
  facts: {
    component: { id: string }
    image?: { bytes: number }
    also?: { component: { id: string } }[]
  }
  prompt: { prompt: string; says: string; answers: { id: string }[] } | null
  supply: { volts: number }[]
}
export async function newest(program: Program, jobId: string): Promise<Told> {
  // A run under way is told without a look at the disk; the whole job is many times the work, and slows what is looked at.
  const underWay: { id: string; state: Omit<Told, 'id'> & { facts: { job: { id: string } } } }[] =
    await program.get('/runs')
  const live = underWay.find(({ state }) => state.facts.job.id === jobId)
  if (live) return { ...live.state, id: live.id }
  const { runs } = await program.get(`/jobs/${jobId}`)
  return { id: runs[0]?.id, ...runs[0]?.state }
}

/** The button that answers a run's question; `asked` alone, where another may have come meanwhile. */
export const answerOf = (page: Page, asked?: string) =>
  page.locator(`.deck ${asked === undefined ? '' : `[data-asks="${asked}"] `}[data-answer]`).first()

/** Nothing that is worked on the screen takes so long, not even where a machine stands still for minutes, ms. */
const longestMs = 240_000

/**
 * Answers on the screen whatever a run asks, as a person would, until `when` holds; what it had come to then.
 * @param everyMs how often it looks: each look takes the processor from what is looked at.
 */
export async function work(
  page: Page,
  program: Program,
  jobId: string,
  when: (told: Told) => boolean,
  use: Use = byMouse,
  everyMs = 250,
): Promise<Told> {
  for (const began = Date.now(); ;) {
    const told = await newest(program, jobId)
    if (told.id !== undefined && when(told)) return told
    if (Date.now() - began > longestMs)
      throw new Error(
        `after ${longestMs / 1000} s leg ${told.leg} is ${told.outcome}, at step ${told.open}, asks ${told.prompt?.prompt}`,
      )
    // A question that went meanwhile is answered by nobody.
    if (told.prompt) await use(answerOf(page, told.prompt.prompt), 1000).catch(() => {})
    else await page.waitForTimeout(everyMs)
  }
}

/** Works the one list after the proof in its order, each thing as soon as it is its turn. */
export async function workClosing(page: Page, use: Use = byMouse): Promise<string[]> {
  const list = page.getByRole('region', { name: 'Back in order' })
  const worked: string[] = []
  await expect(list.locator('[data-closing]').first()).toBeVisible()
  for (const next = list.locator('[data-closing]:has([data-next])'); (await next.count()) > 0;) {
    const id = (await next.first().getAttribute('data-closing'))!
    const own = list.locator(`[data-closing="${id}"]`)
    await use(own.locator('[data-next]').first())
    await expect(own.locator('[data-next]')).toHaveCount(0)
    worked.push(id)
  }
  return worked
}

/** Starts the next run of a job and works it to its end. */
export async function workNext(
  page: Page,
  program: Program,
  jobId: string,
  use: Use = byMouse,
): Promise<Told> {
  const before = (await newest(program, jobId)).id
  await use(page.getByRole('button', { name: 'Start the run' }))
  return work(page, program, jobId, ({ id, outcome }) => id !== before && outcome !== 'running', use)
}

/** More than any job of the demo holds, with a few presses to spare that a slow machine tells as missed. */
const mostHolds = 12

/** Releases by name what is only the owner's to agree to, such as a way that leads no way back. */
export async function releaseHolds(page: Page) {
  const heading = page.locator('.deck h2.say')
  const ready = heading.filter({ hasText: 'Ready' })
  const dialog = page.locator('[role=dialog].release')
  const release = page.getByRole('button', { name: /Release this hold/ }).first()
  await expect(heading).not.toContainText('Judging')
  for (let left = mostHolds; left > 0; left--) {
    // The heading may stand before the list below it does; what nobody can release is told in its words.
    await expect(
      ready.or(release).first(),
      (await heading.textContent().catch(() => null)) ?? '',
    ).toBeVisible()
    if ((await ready.count()) > 0) return
    // What is judged anew draws its buttons anew: one that went while it was aimed at is looked for again.
    await release.click({ timeout: 2000 }).catch(() => {})
    // On a slow machine a press is told as late, and was done.
    if (!(await dialog.isVisible())) continue
    await dialog.getByLabel('Your name').fill('A. Lund')
    await dialog.getByLabel('Reason').fill('the owner agrees')
    await dialog.getByRole('button', { name: 'Release the hold' }).click()
    await expect(dialog).toBeHidden()
    await page.waitForTimeout(150)
  }
}
