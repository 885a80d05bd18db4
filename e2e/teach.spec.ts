import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { Program, expect, test } from './program'

/*
 * A newcomer's measure: an empty data folder, a unit nobody here has seen (e2e/peers/prompt_console.md, at the far end of a
 * pseudo-terminal), and the screen alone. It counts what was answered, and the seconds.
 */
const folder = mkdtempSync(join(tmpdir(), 'bench-wake-teach-'))
let unit: ChildProcess
let program: Program

test.beforeAll(async () => {
  const peer = join(import.meta.dirname, 'peers', 'prompt_console.py')
  unit = spawn('python3', [peer, join(folder, 'memory')], { stdio: ['ignore', 'pipe', 'inherit'] })
  const path = await new Promise<string>((resolve) => createInterface(unit.stdout!).once('line', resolve))
  program = new Program('', { BENCH_WAKE_PORTS: path }, [])
  await program.start()
})
test.afterAll(async () => {
  await program.end('SIGTERM')
  unit.kill()
  rmSync(folder, { recursive: true, force: true })
})

test.use({ actionTimeout: 8000 })

test('a new kind is taught on the screen, tried on its unit, kept, and its unit read', async ({ page }) => {
  test.setTimeout(60_000)
  const began = Date.now()
  let answers = 0
  const fill = async (name: string, value: string) => {
    answers++
    await page.locator(`[id="field-${name}"]`).fill(value)
  }
  const turnTo = (part: string) =>
    page
      .getByRole('button', { name: new RegExp(`^${part}`) })
      .first()
      .click()
  /** Opens whatever is shut, so that a field can be reached. */
  const unfold = () =>
    page.locator('details').evaluateAll((all) => all.forEach((each) => each.setAttribute('open', '')))

  await page.goto(`${program.address}/families`)
  await page.getByRole('button', { name: 'Teach a new kind' }).click()
  await fill('id', 'tide-gate')
  await fill('name', 'Tide gate controller')
  await fill('summary', 'Opens and shuts a tide gate.')
  await turnTo('Hardware')
  await fill('hardware.deviceIdentifier', 'TG-4')
  await turnTo('Links')
  await unfold()
  const steps = 'links.0.drive.operations'
  const { operations } = tideGateProfile.links[0]!.drive as {
    operations: Record<string, { steps: unknown[] }>
  }

  // First a slip of the pen: the trial says at which step, and what the unit said to it.
  await fill(`${steps}.page.steps`, JSON.stringify(operations['page']!.steps).replace('ver\\r', 'vers\\r'))
  const box = page.locator('.json', { has: page.locator(`[id="field-${steps}.page.steps"]`) })
  const trial = box.locator('xpath=following-sibling::*[contains(@class,"try")][1]')
  await trial.getByRole('button', { name: 'Try it on a unit' }).click()
  await expect(trial.getByLabel('Port')).not.toHaveValue('')
  await trial.getByRole('button', { name: 'Try it', exact: true }).click()
  await expect(trial).toContainText('refused at step 2 of page, asked "vers\\r"')
  await fill(`${steps}.page.steps`, JSON.stringify(operations['page']!.steps))
  await trial.getByRole('button', { name: 'Try it', exact: true }).click()
  await expect(trial).toContainText('It works')
  await expect(trial).toContainText('1.3')

  // What can never be is pointed at before anything goes out.
  await fill(`${steps}.attach.steps`, '[{"do":"send","text":"{pin}"}]')
  await expect(page.locator('.json', { hasText: 'Nothing fills {pin}' })).toBeVisible()
  await fill(`${steps}.attach.steps`, JSON.stringify(operations['attach']!.steps))
  await fill(`${steps}.write.steps`, JSON.stringify(operations['write']!.steps))

  await page.getByRole('button', { name: /^Save revision 1/ }).click()
  await expect(page).toHaveURL(/\/families\/tide-gate$/)

  await page.goto(`${program.address}/units`)
  const made = await page.request.post(`${program.address}/api/units`, {
    data: { familyId: 'tide-gate', name: 'North gate', place: 'North sluice', serial: 'TG4-0117' },
  })
  const { id } = (await made.json()) as { id: string }
  await page.goto(`${program.address}/units/${id}`)
  await page.getByRole('button', { name: 'Read it now' }).click()
  await expect(page.locator('main, .page').first()).toContainText('1.3')
  console.log(`taught and read in ${answers} answers and ${Math.round((Date.now() - began) / 1000)} s`)
})
