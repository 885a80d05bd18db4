/* eslint-disable @typescript-eslint/no-explicit-any -- answers are read as an outside tool does: by member */
import type { Page } from '@playwright/test'
import { expect, setSpeed, test, type Program } from './program'
import { newest } from './right-bench'

/*
 * PRACTICE H6, H7: one job, cut in every phase one after the other, and led to its end by keyboard alone. Speed is chosen
 * with the mouse: how fast a stand-in runs is no part of a job.
 */

const jobId = 'job-fog-07'
const runOf = async (program: Program): Promise<any> => newest(program, jobId)
const openKind = (state: { open: number | null; steps: { kind: string }[] } | undefined) =>
  state && state.open !== null ? state.steps[state.open]?.kind : undefined

/** Answers with Enter whatever is asked, until `when` holds. */
async function enterUntil(page: Page, program: Program, when: (state: any) => boolean): Promise<void> {
  for (;;) {
    const state = await runOf(program)
    if (state.id && when(state)) return
    if (state.prompt) {
      const first = page.locator('.deck [data-answer]').first()
      await expect(first).toBeFocused()
      const asked = state.prompt.says
      await page.keyboard.press('Enter')
      await expect(async () => expect((await runOf(program)).prompt?.says).not.toBe(asked)).toPass()
    } else await page.waitForTimeout(40)
  }
}

/** What each phase is told by, and whether the person is told to leave the unit powered when it was cut there. */
const phases: { name: string; at: (state: any) => boolean; keep: boolean }[] = [
  { name: 'power-up', at: (state) => openKind(state) === 'power-up' && state.prompt, keep: false },
  { name: 'erase', at: (state) => openKind(state) === 'erase', keep: true },
  { name: 'write', at: (state) => openKind(state) === 'write' && state.acknowledged > 60_000, keep: true },
  { name: 'restart', at: (state) => openKind(state) === 'restart' && state.prompt, keep: false },
]

test('a job that is cut in every phase comes to its proof, by keyboard alone', async ({ page, program }) => {
  await page.goto(`${program.address}/jobs/${jobId}`)
  await expect(page.getByRole('button', { name: 'Read the unit' })).toBeFocused()
  await page.keyboard.press('Enter')
  await setSpeed(page, '10')
  await page.getByRole('button', { name: 'Start the run' }).focus()
  await page.keyboard.press('Enter')

  for (const [index, { name, at, keep }] of phases.entries()) {
    await enterUntil(page, program, at)
    await program.end('SIGKILL')
    if (name === 'write') await expect(page.getByText(/This page has lost the program/)).toBeVisible()
    await program.start()
    await page.reload()
    const heading = page.locator('.deck h2.say')
    await expect(heading, name).toHaveText(keep ? 'Do not power down.' : 'It did not reach its end.')
    if (name === 'write') {
      await expect(
        page.locator('.deck').getByText(/Cut in write at byte \d+\s\d{3} of 262\s144/),
      ).toBeVisible()
      await expect(page.getByText(/Its bootloader is still there/)).toBeVisible()
    }
    const on = page.getByRole('button', { name: 'Go on from here' })
    await expect(on, name).toBeFocused()
    await page.keyboard.press('Enter')
    await expect(async () => expect((await runOf(program)).leg).toBe(index + 2)).toPass()
    if (index > 0) {
      // A later leg asks once whether power stands, and goes on from where the unit is.
      const kinds = (await runOf(program)).steps.map(({ kind }: any) => kind)
      expect(kinds, name).not.toContain('dry-run')
      expect(kinds.includes('write'), name).toBe(name !== 'restart')
    }
  }
  await enterUntil(page, program, ({ outcome }) => outcome !== 'running')
  expect(await runOf(program)).toMatchObject({ outcome: 'proved', leg: phases.length + 1 })
  await expect(page.getByRole('heading', { name: /The unit says 2\.48 itself/ })).toBeVisible()
  await expect(page.getByLabel('Your name')).toBeFocused()
})
