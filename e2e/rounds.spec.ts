import { AxeBuilder } from '@axe-core/playwright'
import { demoBenches } from '@bench-wake/demo'
import type { Page } from '@playwright/test'
import { expect, pick, setSpeed, test, type Program } from './program'
import { releaseHolds, workNext } from './right-bench'

/*
 * PRACTICE K1 to K6: the launch's case is worked to its end with the stand-in calibrator, round by round: image, write,
 * logs in their order, package, answer.
 */
const casePath = '/rounds/case-launch-3'
const stateOf = async (program: Program) => (await program.get('/cases/case-launch-3')).state

/** A log as another program writes it: semicolons, decimal commas, the time of the day, names in capitals. */
function foreignLog(rows: number, pedal: (row: number) => number, volts = 51): string {
  const clock = (row: number) =>
    `09:${String(Math.floor(row / 1200)).padStart(2, '0')}:${String(Math.floor(row / 20) % 60).padStart(2, '0')},${String((row % 20) * 50).padStart(3, '0')}`
  const lines = Array.from({ length: rows }, (_, row) => {
    const at = pedal(row)
    const figures = [
      at * 20 + (row % 3),
      at,
      at * 1.6,
      at * 1.62,
      volts - at / 50 - (row % 2) / 100,
      20 + row / 500,
    ]
    return [clock(row), ...figures.map((figure) => figure.toFixed(2).replace('.', ','))].join(';')
  })
  const heading =
    'CLOCK;MOTOR SPEED [rpm];PEDAL [%];MOTOR CURRENT [A];WANTED CURRENT [A];TRACTION BATTERY [V];MOTOR TEMPERATURE [°C]'
  return ['Logger 3, harbour launches', heading, ...lines, ''].join('\r\n')
}
const file = (name: string, text: string) => ({
  name,
  mimeType: 'text/csv',
  buffer: Buffer.from(text, 'latin1'),
})

async function writeRound(page: Page, program: Program, number: number): Promise<void> {
  const next = page.getByRole('region', { name: 'What is next' })
  await expect(next.getByText(`Write and prove the image of round ${number}.`)).toBeVisible()
  await next.getByRole('button', { name: 'Open the job' }).click()
  await expect(page).toHaveURL(/\/jobs\/job-/)
  await expect(page.getByText(`Round ${number} of`)).toBeVisible()
  const jobId = page.url().split('/').at(-1)!
  await program.send('PUT', `/jobs/${jobId}/bench`, demoBenches['launch-motor'])
  await program.send('POST', '/units/launch-3/snapshots', { port: 'stand-in:launch-3' })
  await page.reload()
  await releaseHolds(page)
  await setSpeed(page, '0')
  expect((await workNext(page, program, jobId)).outcome).toBe('proved')
  await page.getByRole('link', { name: 'Launch 3 surges at a quarter pedal' }).click()
}

test('the launch’s case goes through three rounds to its aim, a failed log is refused with its reason, the case is closed', async ({
  page,
  program,
}) => {
  await page.goto(program.address)
  await page.getByRole('link', { name: 'Launch 3 surges at a quarter pedal' }).click()
  const next = page.getByRole('region', { name: 'What is next' })
  for (const number of [5, 6, 7]) {
    await writeRound(page, program, number)
    await expect(next).toContainText('Log idle')
    if (number === 5) {
      // PRACTICE K4, common practice: a log of a kilobyte is a failed log.
      await next.getByLabel('Log file').setInputFiles(
        file(
          'failed.csv',
          foreignLog(8, () => 0),
        ),
      )
      await expect(next.getByText('This log failed: there is next to nothing in it.')).toBeVisible()
      await expect(next).toContainText('Log idle')
      // Whole, but never at rest: the next kind is not asked for.
      await next.getByLabel('Log file').setInputFiles(
        file(
          'driven.csv',
          foreignLog(1400, (row) => 20 + (row % 50)),
        ),
      )
      await expect(next.getByText(/Idle was not held: Pedal was at 10 or less for no time/)).toBeVisible()
      await expect(next).toContainText('Log idle')
      await next.getByLabel('Log file').setInputFiles(
        file(
          'their idle.csv',
          foreignLog(1400, (row) => (row % 40) / 20),
        ),
      )
    } else await next.getByRole('button', { name: 'Drive the stand-in' }).click()
    await expect(next).toContainText('Log light load')
    // PRACTICE K5: a session is no longer than the laptop's battery.
    if (number === 5) {
      await program.send('PUT', '/laptop', { onMains: false, minutesLeft: 3 })
      await page.reload()
      const session = next.locator('[data-part=session]')
      await expect(session).toContainText('The laptop does not last for this session.')
      await session.getByRole('checkbox').click()
      await session.getByRole('button', { name: 'Save' }).click()
      await expect(session).toContainText('The laptop is on mains.')
    }
    await next.getByRole('button', { name: 'Drive the stand-in' }).click()
    await expect(next).toContainText('Log full load')
    await expect(next.locator('.caution')).toContainText('Local codes and licensed people come first')
    if (number === 6) {
      // Over the unit's own link: the stand-in answers service 22 while its pedal moves.
      const record = next.locator('[data-part=record]')
      await pick(page, 'Speed of the recording', 'as fast as possible')
      await expect(record.getByRole('button', { name: 'Record over the link' })).toBeDisabled()
      await record.getByRole('checkbox').click()
      await record.getByRole('button', { name: 'Record over the link' }).click()
    } else await next.getByRole('button', { name: 'Drive the stand-in' }).click()
    await expect(next).toContainText(`Send round ${number}`, { timeout: 40_000 })
    if (number === 7) break
    await next.getByLabel('What it does now').fill('Pulls a little late at full pedal.')
    await next.getByRole('button', { name: 'Make the package' }).click()
    await expect(next).toContainText(`Round ${number} is with the calibrator.`)
    const { rounds } = await stateOf(program)
    const zip = await fetch(
      `${program.address}/api/cases/case-launch-3/packages/${rounds[number - 1].sent.sha256}`,
    )
    expect(zip.headers.get('content-type')).toBe('application/zip')
    await next.getByRole('button', { name: 'Let the stand-in calibrator answer' }).click()
  }
  await expect(page.getByText('The aim is reached.')).toBeVisible()
  await page.locator('[data-round="6"]').click()
  await expect(page.getByRole('group', { name: 'Error of round 6' })).toBeVisible()
  await expect(page.locator('[data-table=current]')).toBeVisible()
  await next.getByRole('button', { name: 'Close the case' }).click()
  await next.getByLabel('What came of it, in words').fill('Pulls evenly from standstill.')
  await next.getByRole('button', { name: 'Close the case' }).click()
  await expect(page.getByText('Closed: the aim is reached.')).toBeVisible()
  expect((await stateOf(program)).closed).toMatchObject({ outcome: 'reached' })
  await page.goto(`${program.address}/rounds`)
  await expect(page.locator('[data-case="case-launch-3"]')).toContainText('Closed')
})

test('a log is looked at: channels with a cursor, a map, points, and another round beside it', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}${casePath}`)
  await page.locator('[data-round="2"]').click()
  await page.getByRole('link', { name: 'full-load-2.csv' }).click()
  await expect(page.getByText('The log is good for full load.')).toBeVisible()
  const plot = page.getByRole('img', { name: /channels over time/ })
  await plot.focus()
  for (let press = 0; press < 5; press++) await page.keyboard.press('ArrowRight')
  await expect(page.locator('.reading')).toContainText('Motor current')
  await page.keyboard.press('+')
  await expect(page.getByText('0.0 s to 24.0 s')).toHaveCount(0)
  await page.keyboard.press('Home')
  await expect(page.getByText('0.0 s to 24.0 s')).toBeVisible()
  await expect(page.getByRole('group', { name: 'Error to the aim' })).toBeVisible()
  await page.getByText('Points', { exact: true }).click()
  await expect(page.locator('.apexcharts-scatter-series')).toBeVisible()
  await pick(page, 'Another log beside it', 'Round 1')
  await expect(page.getByText(/to where both held Pedal/)).toBeVisible()
  const picture = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save picture' }).click()
  expect((await picture).suggestedFilename()).toBe('full-load-2.svg')
  await page.getByText('Error to the aim', { exact: true }).click()
  // What each round wrote stands on the unit's own time line.
  const logPage = page.url()
  await page.goto(`${program.address}/units/launch-3`)
  const timeLine = page.getByRole('group', { name: /4\.1, then 4\.1\.1, then 4\.1\.2/ })
  await expect(timeLine).toBeVisible()
  await expect(timeLine.getByRole('img', { name: /4\.1\.2, / })).toHaveText('4.1.2')
  // Its runs are reached by keys, and say which they are.
  await timeLine.getByRole('link').last().focus()
  await expect(page.locator('.n-tooltip')).toContainText(/^Run of .*: proved$/)
  const line = [`${program.address}/units/launch-3`, `${program.address}/rounds`]
  for (const path of [logPage, `${program.address}${casePath}`, ...line]) {
    await page.goto(path)
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForLoadState('networkidle')
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
  }
})

test('a case of one’s own is begun from a unit, with the calibrator’s list as it came', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/units/launch-1`)
  await page.getByRole('link', { name: 'Begin rounds with a calibrator' }).click()
  await page.getByLabel('What it is about').fill('Hesitates in the cold')
  await page.getByLabel('Calibrator', { exact: true }).fill('Somebody on the mainland')
  await page.getByLabel('The calibrator’s list').fill('1. Motor speed [rpm]\n2. Pedal [%]\n3. Supply [V]')
  await page.getByRole('button', { name: 'Use this list' }).click()
  await expect(page.getByLabel('Channel 3', { exact: true })).toHaveValue('Supply')
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([])
  await page.getByRole('button', { name: 'Begin the case' }).click()
  await expect(page.getByRole('heading', { name: 'Hesitates in the cold' })).toBeVisible()
  await expect(page.getByText('Take in the base image.')).toBeVisible()
  const begun = (await program.get('/cases')).find(
    (each: { title: string }) => each.title === 'Hesitates in the cold',
  )
  expect(begun.unit.id).toBe('launch-1')
})

test('a held log counts by a named person and is left out with a reason; the next kind waits for it', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}${casePath}`)
  await writeRound(page, program, 5)
  const next = page.getByRole('region', { name: 'What is next' })
  // Its battery is below the 44 V of the case.
  const short = file(
    'short.csv',
    foreignLog(1400, (row) => (row % 40) / 20, 43),
  )
  await next.getByLabel('Log file').setInputFiles(short)
  await expect(next.getByText(/The supply sagged to/)).toBeVisible()
  const log = page.locator('[data-log]', { hasText: 'short.csv' })
  await log.getByRole('button', { name: 'Use it all the same' }).click()
  // Neither without a reason nor without a name.
  const use = log.getByRole('button', { name: 'Use it', exact: true })
  await expect(use).toBeDisabled()
  await log.getByLabel('Why it counts').fill('The meter of the launch reads a volt too low.')
  await log.getByLabel('Your name').fill('R. Lund')
  await use.click()
  await expect(log).toContainText('Counts all the same')
  await expect(log).toContainText('R. Lund')
  await expect(next).toContainText('Log light load')
  await log.getByRole('button', { name: 'Leave out' }).click()
  await expect(log.getByRole('button', { name: 'Leave it out' })).toBeDisabled()
  await log.getByLabel('Why it is left out').fill('Logged on the other launch.')
  await log.getByRole('button', { name: 'Leave it out' }).click()
  await expect(log).toContainText('left out: Logged on the other launch.')
  await expect(next).toContainText('Log idle')
})

test('a definition comes as a list of tables: what the list does not say is asked, and it is held against the image', async ({
  page,
  program,
}) => {
  await page.goto(`${program.address}/units/launch-1`)
  await page.getByRole('link', { name: 'Begin rounds with a calibrator' }).click()
  await page.getByLabel('What it is about').fill('Hesitates in the cold')
  await page.getByLabel('Calibrator', { exact: true }).fill('Somebody on the mainland')
  await page.getByRole('button', { name: 'Begin the case' }).click()
  await expect(page.getByText('Take in the base image.')).toBeVisible()
  const { state } = await program.get('/cases/case-launch-3')
  const bytes = await fetch(`${program.address}/api/images/${state.rounds[0].imageId}/bytes?format=file`)
  await page.getByLabel('Address of a plain binary').fill('0x10000')
  await page.getByLabel('Image file').setInputFiles({
    name: 'base.bin',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(await bytes.arrayBuffer()),
  })
  await page
    .getByLabel('Definition file')
    .setInputFiles(file('ramp.csv', 'Name;Address;Type;Byte order;Factor;Unit\nRamp;0x14120;u16;big;1;%/s\n'))
  const list = page.locator('[data-part=definition-list]')
  await expect(list).toContainText('ramp.csv is a list of tables.')
  await list.getByLabel('Signature at').fill('0x00010114')
  await list.getByLabel('Text that stands there').fill('L-999')
  await list.getByLabel('Calibration begins at').fill('0x00014000')
  await list.getByLabel('Its bytes').fill('0x1000')
  await list.getByRole('button', { name: 'Save the definition' }).click()
  // It belongs to another image, and no word lifts that.
  await expect(page.getByText(/L-999/).first()).toBeVisible()
  await expect(page.getByRole('button', { name: 'Begin round 1' })).toBeDisabled()
})
