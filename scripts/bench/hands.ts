import { chromium, type Locator, type Page } from '@playwright/test'
import { drivenLink } from '@bench-wake/core/family'
import { demoBenches, demoFamily, demoFamilyList, firstUnitOf } from '@bench-wake/demo'
import { rmSync } from 'node:fs'
import { chromiumPath } from '../../e2e/chromium'
import { Program } from '../../e2e/program'
import { needServer } from '../server.mjs'
import type { Bench, Figure } from './figure'

/** A job that takes more moves than this goes nowhere. */
const mostMoves = 400
const today = () => new Date().toISOString().slice(0, 10)

/** Keys that a person presses and characters that they type; what the mouse would do is not counted. */
interface Hands {
  presses: number
  typed: number
}

/** A job of the family's first unit whose bench was said before; unit and image are still to be read and chosen. */
async function jobFor(program: Program, familyId: string): Promise<string> {
  const unit = firstUnitOf(familyId)
  if (familyId === 'marine-radio') {
    const answer = { question: 'signal-output', answer: 'low-channel', by: 'T. Reader' }
    await program.send('POST', `/units/${unit.id}/answers`, answer)
  }
  // What no link reads is read off the unit's own screen: typing a page is no part of this count.
  const family = demoFamily(familyId)
  if (!drivenLink(family)) {
    const lines = Object.assign({}, ...unit.pages.map((page) => page.lines)) as Record<string, string>
    await program.send('POST', `/units/${unit.id}/snapshots`, {
      source: 'menu',
      lines: family.snapshot.flatMap(({ field, label }) =>
        lines[field] === undefined ? [] : [{ field, label, value: lines[field] }],
      ),
    })
  }
  const form = { unitId: unit.id, kind: 'feature', reason: 'Count the keys.', day: today() }
  const { id } = await program.send('POST', '/jobs', form)
  await program.send('PUT', `/jobs/${id}/bench`, demoBenches[familyId])
  const { kit } = await program.get(`/jobs/${id}`)
  for (const item of kit) await program.send('PUT', `/kit/${today()}`, { item: item.id, packed: true })
  return id as string
}

/** Goes to a control by Tab, the shorter way round, and counts each. */
async function goTo(page: Page, selector: string, hands: Hands): Promise<boolean> {
  const steps = await page.evaluate((wanted) => {
    const target = [...document.querySelectorAll<HTMLElement>(wanted)].find(
      (each) => each.offsetParent !== null && !(each as HTMLButtonElement).disabled,
    )
    if (!target) return null
    const stops = [
      ...document.querySelectorAll<HTMLElement>('a[href], button, input, select, textarea, summary'),
    ].filter(
      (each) => each.offsetParent !== null && !(each as HTMLButtonElement).disabled && each.tabIndex >= 0,
    )
    const [from, to] = [stops.indexOf(document.activeElement as HTMLElement), stops.indexOf(target)]
    const ahead = Math.abs(to - from)
    target.focus()
    return Math.min(ahead, stops.length - ahead)
  }, selector)
  if (steps === null) return false
  hands.presses += steps
  return true
}

async function press(page: Page, key: string, hands: Hands): Promise<void> {
  hands.presses++
  await page.keyboard.press(key)
}
async function type(page: Page, text: string, hands: Hands): Promise<void> {
  hands.typed += text.length
  await page.keyboard.type(text)
}

/** The one next thing on the screen of a job; false where there is nothing a hand could do. */
async function nextMove(page: Page, goodSigns: readonly string[], hands: Hands): Promise<boolean> {
  const name = page.locator('.deck form input[name=name]')
  // A field that goes while it is looked at was not empty.
  const valueOf = (field: Locator) => field.inputValue({ timeout: 300 }).catch(() => 'gone')
  if ((await name.isVisible()) && (await valueOf(name)) === '') {
    await goTo(page, '.deck form input[name=name]', hands)
    await type(page, 'T. Keys', hands)
    return true
  }
  if (await page.locator('dialog[open]').isVisible()) {
    for (const [label, text] of [
      ['Your name', 'T. Keys'],
      ['Reason', 'Agreed.'],
    ] as const) {
      const field = page.locator(`dialog[open] input[aria-label="${label}"]`)
      if ((await valueOf(field)) !== '') continue
      await goTo(page, `dialog[open] input[aria-label="${label}"]`, hands)
      await type(page, text, hands)
    }
    await press(page, 'Enter', hands)
    return true
  }
  for (const sign of goodSigns)
    if (await goTo(page, `.deck [data-sign="${sign}"]`, hands))
      return press(page, 'Enter', hands).then(() => true)
  if (await goTo(page, '.deck [data-closing] input[data-next]', hands))
    return press(page, 'Space', hands).then(() => true)
  for (const selector of [
    '.deck [data-closing] [data-next]',
    // What the unit shows is what it should: the first answer of that question says the opposite.
    '.deck [data-answer=wanted]',
    '.deck [data-primary]',
    '.deck [data-answer]',
  ]) {
    // A window that is not open yet is waited for.
    if ((await page.locator('.window').isVisible()) && !(await page.locator('.window.open').isVisible()))
      return true
    if (await goTo(page, selector, hands)) return press(page, 'Enter', hands).then(() => true)
  }
  const release = page.getByRole('button', { name: /Release this hold/ }).first()
  if (await release.isVisible()) {
    await release.evaluate((button) => button.setAttribute('data-release', ''))
    await goTo(page, '[data-release]', hands)
    await press(page, 'Enter', hands)
    return true
  }
  return false
}

/** Works one job from its first station to Closed; null where the hands got stuck, with what stood there then. */
async function work(page: Page, program: Program, familyId: string): Promise<Hands | string> {
  const hands: Hands = { presses: 0, typed: 0 }
  const id = await jobFor(program, familyId)
  await page.goto(`${program.address}/jobs/${id}`)
  const goodSigns = (demoFamilyList.find((family) => family.id === familyId)?.entry ?? []).flatMap(
    ({ script }) => script?.signs.filter(({ tells }) => tells === 'in').map((sign) => sign.id) ?? [],
  )
  let idle = 0
  for (let move = 0; move < mostMoves && idle < 60; move++) {
    await page.waitForTimeout(120)
    if ((await program.get(`/jobs/${id}`)).job.closedAt !== null) return hands
    const speed = page.getByLabel('Speed of the stand-in')
    // How fast a stand-in runs is no part of a job.
    if (await speed.isVisible()) await speed.selectOption('0', { timeout: 300 }).catch(() => {})
    const before = hands.presses + hands.typed
    await nextMove(page, goodSigns, hands)
    idle = hands.presses + hands.typed === before ? idle + 1 : 0
  }
  return page
    .locator('.deck h2')
    .first()
    .innerText({ timeout: 1000 })
    .catch(() => 'an empty screen')
}

export const hands: Bench = {
  name: 'hands',
  async measure() {
    await needServer()
    const figures: Figure[] = []
    const browser = await chromium.launch({
      executablePath: chromiumPath,
      args: ['--no-sandbox', '--disable-gpu'],
    })
    // Some families alone: BENCH_WAKE_HANDS=station-inverter,signal-desk.
    const only = process.env['BENCH_WAKE_HANDS']?.split(',')
    for (const { id: familyId } of demoFamilyList.filter(({ id }) => only?.includes(id) ?? true)) {
      const program = new Program()
      await program.start()
      try {
        const page = await browser.newPage()
        page.setDefaultTimeout(3000)
        const told = await work(page, program, familyId)
        if (process.env['SHOT'] && typeof told === 'string')
          await page.screenshot({ path: process.env['SHOT'] })
        await page.close()
        if (typeof told === 'string') console.log(`hands, ${familyId}: stuck at “${told}”`)
        else {
          figures.push({ name: `hands, ${familyId}, keys pressed`, value: told.presses, unit: 'keys' })
          figures.push({
            name: `hands, ${familyId}, characters typed`,
            value: told.typed,
            unit: 'characters',
          })
        }
      } catch (error) {
        console.log(`hands, ${familyId}: ${String(error).split('\n')[0]}`)
      } finally {
        await program.end('SIGKILL')
        rmSync(program.folder, { recursive: true, force: true })
      }
    }
    await browser.close()
    return figures
  },
}
