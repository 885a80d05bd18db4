// One picture of each main view, from the demo data, into docs/screenshots. Starts a program of its own.
import { chromium } from '@playwright/test'
import { spawn } from 'node:child_process'
import { mkdirSync, rmSync } from 'node:fs'
import { createInterface } from 'node:readline'
import { fileURLToPath } from 'node:url'
import { launchForm } from '../e2e/chromium'
import { pick, powerUp, Program, unfold } from '../e2e/program'
import { rightBench } from '../e2e/right-bench'
import { tideGateLog } from '../testing/tide-gate-log'
import { needPages, needServer } from './server.mjs'

const folder = fileURLToPath(new URL('../docs/screenshots/', import.meta.url))
mkdirSync(folder, { recursive: true })
await needServer()
needPages()
// With its past year: a logbook as it looks after a while.
const program = new Program('', {}, ['--demo=year'])
await program.start()
const browser = await chromium.launch(launchForm)

async function page(light: 'day' | 'night', size = { width: 1280, height: 800 }) {
  const context = await browser.newContext({
    viewport: size,
    colorScheme: light === 'night' ? 'dark' : 'light',
  })
  return context.newPage()
}
async function shoot(
  name: string,
  path: string,
  light: 'day' | 'night' = 'day',
  size?: { width: number; height: number },
) {
  const view = await page(light, size)
  await view.goto(program.address + path)
  await view.getByRole('heading', { level: 1 }).waitFor()
  await view.waitForTimeout(800)
  await view.screenshot({ path: `${folder}${name}.png` })
  await view.context().close()
}

// A unit that is in no demo, at a pseudo-terminal, being taught.
const peer = spawn(
  'python3',
  [fileURLToPath(new URL('../e2e/peers/prompt_console.py', import.meta.url)), '/dev/null'],
  {
    stdio: ['ignore', 'pipe', 'inherit'],
  },
)
const peerPath = await new Promise<string>((found) => createInterface(peer.stdout).once('line', found))
const bare = new Program('', { BENCH_WAKE_PORTS: peerPath }, [])
await bare.start()
const teach = await page('day', { width: 1280, height: 1900 })
await teach.goto(`${bare.address}/families/teach`)
await teach.getByRole('button', { name: 'Find the speed' }).click()
await teach.getByText('It talks at').waitFor()
await teach.locator('[data-piece=page]').click()
await teach.getByRole('button', { name: 'Open the terminal' }).click()
await teach.getByRole('textbox', { name: 'What you type' }).fill('ver')
await teach.getByRole('button', { name: 'Send it' }).click()
await teach.getByRole('button', { name: 'Yes, use it' }).first().click()
await teach
  .getByLabel('Trace or log')
  .setInputFiles({ name: 'gate.log', mimeType: 'text/plain', buffer: Buffer.from(tideGateLog) })
await teach.getByText('gate.log,').waitFor()
await teach.waitForTimeout(300)
await teach.screenshot({ path: `${folder}teach.png` })
await bare.end('SIGTERM')
peer.kill()

await shoot('today', '/')
const rounds = (await program.get('/cases/case-launch-3')) as { logs: { id: string; name: string }[] }
const full = rounds.logs.find(({ name }) => name === 'full-load-2.csv')!.id
const round = await page('day', { width: 1280, height: 1340 })
await round.goto(`${program.address}/rounds/case-launch-3`)
await round.locator('[data-round="4"]').click()
await round.locator('[data-table=current]').waitFor()
await round.waitForTimeout(400)
await round.screenshot({ path: `${folder}case.png` })
await shoot('log', `/rounds/case-launch-3/logs/${full}`, 'night', { width: 1280, height: 1340 })
await shoot('shelf', '/shelf')
await shoot('logbook', '/logbook')
await shoot('fits', '/shelf/fits?family=buoy-battery', 'night')
const board = await page('day')
const boardJob = await rightBench(program, 'relay-driver', 'quay-driver-1.4.hex', 'driver-2')
await board.goto(`${program.address}/jobs/${boardJob}`)
await unfold(board.locator('[data-part=fuses]'))
await board.locator('[data-fuse=guard]').getByRole('switch', { name: 'Guard, Six-line port' }).click()
await board.getByText('Nobody gets in over this port again').first().waitFor()
await board.locator('[data-part=fuses]').evaluate((part) => part.scrollIntoView({ block: 'start' }))
await board.waitForTimeout(400)
await board.screenshot({ path: `${folder}fuses.png` })
const shelf = (await program.get('/images')) as { id: string; names: string[] }[]
const named = (name: string) => shelf.find(({ names }) => names.includes(name))!.id
await shoot('image', `/shelf/${named('rel/img1.hex')}`)
await program.send('POST', '/units/launch-2/snapshots', { port: 'stand-in:launch-2' })
await shoot('trace', '/trace?port=stand-in:launch-2', 'night')
const launch = await page('day', { width: 1280, height: 1100 })
await launch.goto(`${program.address}/units/launch-2`)
await launch.getByRole('button', { name: 'Paste its page' }).click()
await launch
  .getByLabel('The whole page, as it was copied')
  .fill('Controller: LM-80\nGeneration: 2\nLayout: L-204\nSerial: LM-00815\nProgram: 3.2\nFault codes: none')
await launch.getByRole('button', { name: 'Save this page' }).click()
await launch.waitForTimeout(800)
await launch.goto(`${program.address}/jobs/job-launch-2`)
await launch.getByText('The supply sags').first().waitFor()
await launch.waitForTimeout(1500)
await launch.screenshot({ path: `${folder}supply.png` })
const wiring = launch.locator('[data-part=wiring]')
await wiring.locator('> summary').click()
await pick(launch, 'Cable or adapter', 'Vehicle bus adapter')
const join = async (from: string, to: string) => {
  await launch.locator(`[data-side=adapter][data-pin="${from}"]`).click()
  await launch.locator(`[data-side=target][data-pin="${to}"]`).click()
}
await join('GND', '5')
await join('H', '14')
await join('L', '6')
await launch.waitForTimeout(600)
await wiring.evaluate((each) => each.scrollIntoView())
await launch.screenshot({ path: `${folder}wiring.png`, clip: { x: 0, y: 0, width: 1280, height: 800 } })
const past = (await program.get('/logbook?q=hesper'))[0].runId
await shoot('record', `/logbook/${past}`)
const coach = await page('night', { width: 390, height: 844 })
await coach.goto(`${program.address}/jobs/job-tide-2/entry`)
await coach.getByRole('button', { name: 'Begin the entry' }).click()
for (let act = 1; act <= 3; act++) {
  await coach.getByText(`Act ${act} of 4`).waitFor()
  await coach.keyboard.press('Enter')
}
await coach.locator('.window.open').waitFor()
await coach.waitForTimeout(600)
await coach.screenshot({ path: `${folder}coach-phone.png` })
const drill = await page('day')
await drill.goto(`${program.address}/drill`)
await drill.getByLabel('Who practises').fill('A. Lund')
await drill
  .locator('[data-exercise=fault-sag-launch-motor]')
  .getByRole('button', { name: 'Practise' })
  .click()
for (const move of ['hold', 'quick', 'shed']) await drill.locator(`[data-move=${move}]`).click()
await drill.locator('.log li .told').nth(2).waitFor()
await drill.waitForTimeout(300)
await drill.screenshot({ path: `${folder}drill.png` })
const job = await page('day')
await job.goto(`${program.address}/jobs/job-fog-07`)
await job.getByRole('button', { name: 'Read the unit' }).click()
await job.getByRole('heading', { name: /Ready:/ }).waitFor()
await job.waitForTimeout(900)
await job.screenshot({ path: `${folder}bench.png` })
await job.getByRole('button', { name: 'Start the run' }).click()
await powerUp(job)
await job.getByText(/\d{2}\d\s\d{3} of 262\s144 bytes/).waitFor()
await job.waitForTimeout(4000)
await job.screenshot({ path: `${folder}write.png` })
await job.getByRole('button', { name: 'It is on again' }).click({ timeout: 40_000 })
await job.getByText('The unit says 2.48 itself').waitFor()
await job.waitForTimeout(300)
await job.screenshot({ path: `${folder}proof.png` })
await shoot('unit', '/units/battery-14')

await browser.close()
await program.end('SIGTERM')
rmSync(program.folder, { recursive: true, force: true })
