import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { tideGateLog } from '@bench-wake/testing/tide-gate-log'
import { readFamily } from '@bench-wake/core/family'
import { writeIntelHex } from '@bench-wake/core/image'
import { placed } from '@bench-wake/standins'
import { AxeBuilder } from '@axe-core/playwright'
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
  await program.leave()
  unit.kill()
  rmSync(folder, { recursive: true, force: true })
})

/** What a list of ports says while none is chosen. */
const noPort = /Choose the port|No port is there/

test.use({ actionTimeout: 8000 })

test('a whole profile is written in the editor, tried on its unit, kept, and its unit read', async ({
  page,
}) => {
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

  // Nothing is here yet: the first page says what leads to a job, and its own equipment comes first.
  await page.goto(program.address)
  await expect(page.getByRole('heading', { name: 'Nothing is here yet' })).toBeVisible()
  await expect(page.locator('[aria-current=step]')).toContainText('Bring your equipment')
  await expect(page.locator('[aria-current=step]').getByRole('button')).toHaveText('Teach a new kind')
  expect((await new AxeBuilder({ page }).setLegacyMode().analyze()).violations).toEqual([])
  await page.getByRole('link', { name: 'Family profiles' }).click()
  await page.getByRole('button', { name: 'Write a whole profile' }).click()
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
  const trial = box.locator('xpath=following-sibling::*[@data-try][1]')
  await trial.getByRole('button', { name: 'Try it on a unit' }).click()
  await expect(trial.locator('.port')).not.toContainText(noPort)
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

/*
 * The same unit once more, from its manual page (e2e/peers/prompt_console.md), by the questions alone: its speed is found, its
 * page is marked in what it says, each piece is tried; then it is written to its proof over the public paths.
 */
test('what a terminal kept of a unit teaches it, without the unit', async ({ page }) => {
  await page.goto(`${program.address}/families`)
  await page.getByRole('button', { name: 'Teach a new kind' }).click()
  const open = (piece: string) => page.locator(`[data-piece="${piece}"]`).click()
  const load = (name: string, text: string) =>
    page.getByLabel('Trace or log').setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) })
  const use = (sent: string) =>
    page
      .getByRole('row')
      .filter({ has: page.getByText(sent, { exact: true }) })
      .getByRole('button', { name: /^Use for/ })
      .click()
  await open('page')
  await load('empty.log', ' ')
  await expect(page.getByRole('alert')).toContainText('empty.log')
  await load('gate.log', tideGateLog)
  await expect(page.getByRole('status').filter({ hasText: 'gate.log' })).toContainText('by the prompt')
  // Nothing says where its firmware lies but the manual.
  await open('memory')
  await expect(page.getByRole('button', { name: /^Use for/ }).first()).toBeDisabled()
  await page.locator('.question input[aria-label^="First address"]').fill('0x8000')
  await page.locator('.question input[aria-label^="Length of its memory"]').fill('0x8000')
  await open('erase')
  await use('erase 8000 1000')
  await expect(page.getByRole('textbox', { name: 'Command' })).toHaveValue('erase {address:hex} {length:hex}')
  await open('read')
  await use('dump 8000 20')
  await expect(page.locator('.json')).toContainText('{at:hex6}: {row:bytes}  |')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.locator('.json')).not.toContainText('{row:bytes}')
  // By another prompt the same file gives what the firmware was asked.
  await open('page')
  await load(
    'page.log',
    tideGateLog.split('boot> ')[0]!.replace('=> boot', '=> level\r\nlevel 1.000 m\r\n=> '),
  )
  await use('ver')
  await expect(page.getByLabel('What came back', { exact: true })).toContainText('fw 1.3')
  const offers = page.getByRole('button', { name: 'Yes, use it' })
  for (let left = await offers.count(); left > 0; left--) await offers.first().click()
  await expect(page.locator('[data-piece="page"] small')).toHaveText('known')
  const found = await new AxeBuilder({ page })
    .setLegacyMode()
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze()
  expect(found.violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([])
  await page.getByRole('button', { name: 'Start over' }).click()
  await page.getByRole('button', { name: /Confirm|Yes|Put it aside/ }).click()
})

test('a new kind is taught by its questions, from its speed to its proof', async ({ page }) => {
  const began = Date.now()
  let answers = 0
  const open = (piece: string) => page.locator(`[data-piece="${piece}"]`).click()
  const state = (piece: string) => page.locator(`[data-piece="${piece}"] small`)
  const fill = async (label: string, value: string) => {
    answers++
    await page.getByRole('textbox', { name: label, exact: false }).first().fill(value)
  }
  const field = async (label: string, value: string) => {
    answers++
    await page.locator(`.question input[aria-label^="${label}"]`).first().fill(value)
  }
  const choose = async (label: string, option: string) => {
    answers++
    await page.getByRole('combobox', { name: label }).click()
    await page.getByText(option, { exact: true }).last().click()
  }
  const tryIt = async (found: string | RegExp) => {
    // Nothing is tried before somebody has looked at the adapter; once is enough for a port.
    const looked = page.getByRole('checkbox', { name: 'I have looked at the adapter' })
    if (!(await looked.isChecked())) {
      await expect(page.getByRole('button', { name: 'Try it on the unit' })).toBeDisabled()
      await looked.check()
    }
    await page.getByRole('button', { name: 'Try it on the unit' }).click()
    await expect(page.locator('.trial')).toContainText('It works')
    await expect(page.locator('.trial')).toContainText(found)
  }

  await page.goto(`${program.address}/units`)
  await page.getByRole('button', { name: 'Teach a new kind' }).click()
  await expect(page.locator('.port').first()).not.toContainText(noPort)
  await page.getByRole('button', { name: 'Find the speed' }).click()
  await expect(page.getByText('It talks at 115200 baud, 8N1.')).toBeVisible({ timeout: 20_000 })

  await open('page')
  await page.getByRole('button', { name: 'Open the terminal' }).click()
  await fill('What you type', 'ver')
  await page.getByRole('button', { name: 'Send it' }).click()
  // What looks like a version and a serial is offered; the prompt is found by itself.
  answers += 3
  await page.getByRole('button', { name: 'Yes, use it' }).first().click()
  await page.getByRole('button', { name: 'Yes, use it' }).first().click()
  await page.getByRole('button', { name: 'Yes, use it' }).first().click()
  await field('A line that refuses', '?{reason}')
  await expect(state('page')).toHaveText('known')
  await tryIt('fw 1.3')
  await expect(state('page')).toHaveText('tried')

  // Half way the page is loaded again: nothing of it is lost.
  await page.reload()
  await expect(page.getByText('Taken up where it was left')).toBeVisible()
  await open('about')
  await field('Name', 'Tide gate, taught')
  await field('What it is, in a sentence', 'Opens and shuts a tide gate.')
  await field('What every unit and image of it says it is', 'TG-4')
  await open('memory')
  await field('First address', '0x8000')
  await field('Length of its memory', '0x8000')
  await open('entry')
  answers++
  await page.getByText('By a command to the firmware').click()
  await field('Command', 'boot')
  await open('attach')
  await field('Its text', 'boot> ')
  await open('entry')
  await tryIt('boot')
  await open('attach')
  await tryIt('boot>')
  await expect(state('attach')).toHaveText('tried')
  await open('erase')
  await field('Command', 'erase {address:hex} {length:hex}')
  await field('Line that tells progress', 'erased {done}/{total}')
  await open('write')
  await choose('How the image goes', 'the bytes as they are')
  await field('Bytes at once', '1024')
  await field('Command before it', 'stage {length}')
  await field('Line that says: send now', 'send')
  await field('Command that burns it', 'burn {address:hex}')
  await open('check')
  await field('Command', 'crc {address:hex} {length:hex}')
  await field('Line it answers', '{sum:hex4}')
  await choose('Checksum', 'CRC-16/IBM-3740')
  await open('read')
  await page.getByRole('button', { name: 'Not known, leave it out' }).click()
  await open('start')
  await field('Command', 'go')
  await open('power')
  await field('Floor', '11')
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
  await page.getByRole('button', { name: 'Save revision 1' }).click()
  await expect(page).toHaveURL(/\/families\/tide-gate-taught$/)
  const seconds = Math.round((Date.now() - began) / 1000)

  // The unit is in its bootloader from the trial: it is started as its manual says, and then worked like any other.
  const send = async (method: 'post' | 'put', path: string, data: object) => {
    const answer = await page.request[method](`${program.address}/api${path}`, { data })
    const body = (await answer.json()) as Record<string, never>
    if (!answer.ok()) throw new Error(JSON.stringify(body))
    return body as Record<string, string>
  }
  const ports = (await (await page.request.get(`${program.address}/api/ports`)).json()) as { id: string }[]
  const port = ports[0]!.id
  const settings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
  await send('post', '/ports/listen', { port, settings })
  await send('post', '/ports/listen/send', { port, hex: Buffer.from('go\r').toString('hex') })
  await page.waitForTimeout(500)
  await send('post', '/ports/listen/end', { port })
  const unit = await send('post', '/units', {
    familyId: 'tide-gate-taught',
    name: 'North gate',
    place: 'North sluice',
    serial: 'TG4-0117',
  })
  await send('post', `/units/${unit['id']}/snapshots`, { port, looked: ['adapter-chosen'] })
  const image = placed(readFamily(tideGateProfile), {
    component: 'main',
    length: 0x1f00,
    fields: { deviceIdentifier: 'TG-4', hardwareMajor: 2, version: '1.4' },
  })
  const uploaded = await page.request.post(`${program.address}/api/images`, {
    multipart: {
      file: { name: 'tide-gate-1.4.hex', mimeType: 'text/plain', buffer: Buffer.from(writeIntelHex(image)) },
    },
  })
  const { images } = (await uploaded.json()) as { images: { id: string }[] }
  // Nothing in the profile tells what an image is: a named person says so, and every write of it is on hold for that.
  await send('post', `/images/${images[0]!.id}/statement`, {
    familyId: 'tide-gate-taught',
    componentId: 'main',
    version: '1.4',
    hardwareMajor: 2,
    by: 'A. Lund',
    from: 'the letter that came with it',
  })
  const job = await send('post', '/jobs', {
    unitId: unit['id'],
    imageId: images[0]!.id,
    kind: 'feature',
    reason: 'Shuts a minute earlier.',
    day: new Date().toISOString().slice(0, 10),
  })
  await send('put', `/jobs/${job['id']}/bench`, {
    laptop: { onMains: true, minutesLeft: null },
    measured: { volts: 12.6, shed: [], charger: null },
    isolation: { alone: true },
  })
  const ready = await page.request.get(
    `${program.address}/api/jobs/${job['id']}/ready?port=${encodeURIComponent(port)}&supplyVolts=12.6`,
  )
  const { gates } = (await ready.json()) as { gates: { findings: { rule: string; level: string }[] }[] }
  const findings = gates.flatMap((gate) => gate.findings)
  expect(findings.filter(({ level }) => level === 'stop')).toEqual([])
  const held = findings.filter(({ level }) => level === 'hold').map(({ rule }) => rule)
  expect(held).toContain('script-tried')
  expect(held).toContain('image-known')
  const releases = held.map((rule) => ({ rule, name: 'A. Lund', reason: 'a spare unit' }))
  const run = await send('post', '/runs', { jobId: job['id'], port, supplyVolts: 12.6, releases })
  await expect
    .poll(
      async () => {
        const answer = await page.request.get(`${program.address}/api/runs/${run['id']}`)
        const { state: now } = (await answer.json()) as { state: Record<string, unknown> }
        const asked = now['prompt'] as { prompt: string; answers: { id: string }[] } | null
        if (asked)
          await page.request.post(`${program.address}/api/runs/${run['id']}/answers`, {
            data: { prompt: asked.prompt, answer: asked.answers[0]!.id },
          })
        return now['problem'] ? JSON.stringify(now['problem']) : now['outcome']
      },
      { timeout: 60_000 },
    )
    .toBe('proved')
  console.log(`taught by ${answers} answers in ${seconds} s, and written to its proof`)
})
