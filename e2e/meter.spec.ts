import { AxeBuilder } from '@axe-core/playwright'
import { spawn, type ChildProcess } from 'node:child_process'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { Program, expect, test } from './program'

/* A meter of one's own (e2e/peers/bench_meter.md) is given the job on the screen, tried, kept, and let go again. */
let meter: ChildProcess
let program: Program

test.beforeAll(async () => {
  const peer = join(import.meta.dirname, 'peers', 'bench_meter.py')
  meter = spawn('python3', [peer, '12.41', '0'], { stdio: ['ignore', 'pipe', 'inherit'] })
  const path = await new Promise<string>((resolve) => createInterface(meter.stdout!).once('line', resolve))
  program = new Program('', { BENCH_WAKE_PORTS: path }, [])
  await program.start()
})
test.afterAll(async () => {
  await program.leave()
  meter.kill()
})

test('a port is made the meter of the bench: a wrong word shows nothing, the right one shows the volts', async ({
  page,
}) => {
  await page.goto(`${program.address}/ports`)
  const part = page.locator('[data-part=meter]')
  await part.getByRole('button', { name: 'Use a port as meter…' }).click()
  await part.getByRole('combobox', { name: 'Port of the meter' }).click()
  await page.locator('.n-base-select-option').first().click()
  await part.getByText('In words of its own').click()
  await part.getByLabel('Sends (empty: it talks by itself)').fill('X')
  await part.getByLabel('Line it answers, {volts} where the figure stands').fill('V={volts}')
  await part.getByRole('button', { name: 'Read now' }).click()
  await expect(part.getByText('It did not answer')).toBeVisible()
  await part.getByLabel('Sends (empty: it talks by itself)').fill('V')
  await part.getByRole('button', { name: 'Read now' }).click()
  await expect(part.getByText('It shows 12.41 V.')).toBeVisible()
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
  await part.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('meter of this bench', { exact: true })).toBeVisible()
  await page.reload()
  await expect(part.getByText('at /dev/pts/')).toBeVisible()
  await part.getByRole('button', { name: 'Read now' }).click()
  await expect(part.getByText('It shows 12.41 V.')).toBeVisible()
  await part.getByRole('button', { name: 'Remove' }).click()
  await expect(part.getByRole('button', { name: 'Use a port as meter…' })).toBeVisible()
  await expect(page.getByText('meter of this bench', { exact: true })).toHaveCount(0)
})
