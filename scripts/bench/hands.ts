import { chromium, type Locator, type Page } from '@playwright/test'
import { copyFamily, drivenLink, readFamily, type FamilyDocument } from '@bench-wake/core/family'
import {
  demoBenches,
  demoFamilies,
  demoFamily,
  demoFamilyList,
  demoFieldsOf,
  firstUnitOf,
  hexOf,
  placed,
} from '@bench-wake/demo'
import { launchForm } from '../../e2e/chromium'
import { Program, setSpeed } from '../../e2e/program'
import { needPages, needServer } from '../server.mjs'
import type { Bench, Figure } from './figure'

/** A job that takes more moves than this goes nowhere. */
const maxMoves = 900
/** Looks at a screen on which there is nothing to do, before the hands count as stuck: a stand-in may run as in life. */
const maxIdle = 400
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

/** What the copied family's units call themselves, so that its images are told from those of the family it was made from. */
const ownIdentifier = (identifier: string) => `${identifier.slice(0, 6)}X`

/** A profile made from a demo family's, as a technician would begin one of their own. */
function madeFrom(familyId: string): FamilyDocument {
  const { document } = copyFamily(demoFamilies.find(({ id }) => id === familyId)!)
  const { deviceIdentifier } = document.hardware
  const own = ownIdentifier(deviceIdentifier)
  return { ...document, hardware: { ...document.hardware, deviceIdentifier: own } }
}

/** Versions that may go straight onto the first unit of a family whose newest may not. */
const steppingStone: Record<string, { version: string; requiresFrom: string }> = {
  'launch-motor': { version: '3.6', requiresFrom: '3.2' },
}

/**
 * A family made from this one, a new unit of it with a page as it would say it, an image for each component, a job; on a
 * stand-in of its own where this program drives the link.
 */
async function newJobFor(program: Program, familyId: string): Promise<string> {
  const document = madeFrom(familyId)
  await program.send('POST', '/families', document)
  const family = readFamily(document)
  const { deviceIdentifier } = document.hardware
  const demo = firstUnitOf(familyId)
  const form = { familyId: family.id, name: 'The new one', place: 'Workshop', serial: demo.serial }
  const unit = await program.send('POST', '/units', form)
  const said = Object.assign({}, ...demo.pages.map(({ lines }) => lines)) as Record<string, string>
  await program.send('POST', `/units/${unit.id}/snapshots`, {
    source: 'menu',
    lines: family.snapshot.flatMap(({ field, label }) =>
      said[field] === undefined
        ? []
        : [{ field, label, value: field === 'deviceIdentifier' ? deviceIdentifier : said[field] }],
    ),
  })
  if (familyId === 'marine-radio') {
    const answer = { question: 'signal-output', answer: 'low-channel', by: 'T. Reader' }
    await program.send('POST', `/units/${unit.id}/answers`, answer)
  }
  let imageId = ''
  for (const { id: component } of family.updates.together
    ? family.components
    : family.components.slice(0, 1)) {
    const own = { deviceIdentifier, serial: demo.serial, ...steppingStone[familyId] }
    const fields = demoFieldsOf(familyId, component, own)
    const body = new FormData()
    body.append('file', new Blob([hexOf(placed(family, fields))]), `new-${component}.hex`)
    const sent = await fetch(`${program.address}/api/images`, { method: 'POST', body })
    const image = (await sent.json()) as { id: string }
    imageId ||= image.id
  }
  const asked = { unitId: unit.id, imageId, kind: 'feature', reason: 'Bring it up.', day: today() }
  const job = await program.send('POST', '/jobs', asked)
  await program.send('PUT', `/jobs/${job.id}/bench`, demoBenches[familyId])
  const { kit } = await program.get(`/jobs/${job.id}`)
  for (const item of kit) await program.send('PUT', `/kit/${today()}`, { item: item.id, packed: true })
  if (!drivenLink(family)) return job.id as string
  const practice = await program.send('POST', `/units/${unit.id}/practice`, { jobId: job.id })
  await program.send('PUT', `/jobs/${practice.jobId}/bench`, demoBenches[familyId])
  return practice.jobId as string
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
  if (await page.locator('.release').isVisible()) {
    for (const [label, text] of [
      ['Your name', 'T. Keys'],
      ['Reason', 'Agreed.'],
    ] as const) {
      const field = page.locator(`.release input[aria-label="${label}"]`)
      if ((await valueOf(field)) !== '') continue
      await goTo(page, `.release input[aria-label="${label}"]`, hands)
      await type(page, text, hands)
    }
    await press(page, 'Enter', hands)
    return true
  }
  for (const sign of goodSigns)
    if (await goTo(page, `.deck [data-sign="${sign}"]`, hands))
      return press(page, 'Enter', hands).then(() => true)
  if (await goTo(page, '.deck [data-closing] [role=checkbox][data-next]', hands))
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
async function work(page: Page, program: Program, familyId: string, id: string): Promise<Hands | string> {
  const hands: Hands = { presses: 0, typed: 0 }
  await page.goto(`${program.address}/jobs/${id}`)
  const goodSigns = (demoFamilyList.find((family) => family.id === familyId)?.entry ?? []).flatMap(
    ({ script }) => script?.signs.filter(({ tells }) => tells === 'in').map((sign) => sign.id) ?? [],
  )
  let idle = 0
  for (let move = 0; move < maxMoves && idle < maxIdle; move++) {
    await page.waitForTimeout(120)
    if ((await program.get(`/jobs/${id}`)).job.closedAt !== null) return hands
    // How fast a stand-in runs is no part of a job.
    const speed = page.getByRole('combobox', { name: 'Speed of the stand-in' })
    if (
      (await speed.isVisible()) &&
      !(await page.locator('.speed').getByText('as fast as possible').isVisible())
    )
      await setSpeed(page, '0')
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

/** Keys of a job of each demo family, and of one on equipment that was not there before. */
export const hands = benchOf('hands', jobFor)
export const handsNew = benchOf('hands on new equipment', newJobFor)

function benchOf(name: string, jobOf: (program: Program, familyId: string) => Promise<string>): Bench {
  return { name, measure }
  async function measure() {
    await needServer()
    needPages()
    const figures: Figure[] = []
    const browser = await chromium.launch(launchForm)
    // Some families alone: BENCH_WAKE_HANDS=station-inverter,signal-desk.
    const only = process.env['BENCH_WAKE_HANDS']?.split(',')
    for (const { id: familyId } of demoFamilyList.filter(({ id }) => only?.includes(id) ?? true)) {
      const program = new Program()
      await program.start()
      try {
        const page = await browser.newPage()
        page.setDefaultTimeout(3000)
        const told = await work(page, program, familyId, await jobOf(program, familyId))
        if (process.env['SHOT'] && typeof told === 'string')
          await page.screenshot({ path: process.env['SHOT'] })
        await page.close()
        if (typeof told === 'string') console.log(`${name}, ${familyId}: stuck at “${told}”`)
        else {
          figures.push({ name: `${name}, ${familyId}, keys pressed`, value: told.presses, unit: 'keys' })
          figures.push({
            name: `${name}, ${familyId}, characters typed`,
            value: told.typed,
            unit: 'characters',
          })
        }
      } catch (error) {
        console.log(`${name}, ${familyId}: ${String(error).split('\n')[0]}`)
      } finally {
        await program.leave()
      }
    }
    await browser.close()
    return figures
  }
}
