import { chromium, type Page } from '@playwright/test'
import { demoBenches } from '@bench-wake/demo'
import { launchForm } from '../../e2e/chromium'
import { Program } from '../../e2e/program'
import { needPages, needServer } from '../server.mjs'
import type { Bench, Figure } from './figure'
import { largeLog } from './large-log'
import { drawn, open, taken, watchTasks } from './page-tasks'

const unit = 'launch-3'
const theCase = 'case-launch-3'
const port = `stand-in:${unit}`
/** How long the view is dragged, ms. */
const dragMs = 3000

/** Writes the image of the case's open round on its stand-in, so that a log is due. */
async function writeRound(program: Program): Promise<void> {
  const by = 'R. Lund'
  const { jobId } = await program.send('POST', `/cases/${theCase}/job`, { by, day: '2026-11-28' })
  await program.send('PUT', `/jobs/${jobId}/bench`, demoBenches['launch-motor'])
  await program.send('POST', `/units/${unit}/snapshots`, { port })
  const { gates } = await program.get(`/jobs/${jobId}/ready?port=${encodeURIComponent(port)}`)
  const releases = gates
    .flatMap(({ findings }: { findings: { rule: string; level: string }[] }) => findings)
    .filter(({ level }: { level: string }) => level === 'hold')
    .map(({ rule }: { rule: string }) => ({ rule, name: by, reason: 'measured' }))
  const { id } = await program.send('POST', '/runs', { jobId, port, speed: 0, releases })
  for (const answered = new Set<number>(); ;) {
    const { state } = await program.get(`/runs/${id}`)
    if (state.outcome === 'proved') return
    if (state.outcome !== 'running') throw new Error(`the run of the benchmark ended ${state.outcome}`)
    const wake: { seq: number; body: { type: string; prompt: string; answers: { id: string }[] } }[] =
      await program.get(`/runs/${id}/wake`)
    const asked = wake.findLast(({ body }) => body.type === 'prompt.asked')
    if (asked && !answered.has(asked.seq)) {
      answered.add(asked.seq)
      const { prompt, answers } = asked.body
      await program
        .send('POST', `/runs/${id}/answers`, { prompt, answer: answers[0]!.id })
        // Answered by what the run heard meanwhile.
        .catch(() => {})
    }
    await new Promise((done) => setTimeout(done, 100))
  }
}

/** Pictures of the plot that were drawn while it was dragged, and the page's longest task meanwhile. */
async function dragged(page: Page): Promise<{ frames: number; ms: number; longest: number }> {
  const plot = page.getByRole('img', { name: /channels over time/ })
  await plot.focus()
  for (let press = 0; press < 6; press++) await page.keyboard.press('+')
  await drawn(page)
  const box = (await plot.boundingBox())!
  await page.mouse.move(box.x + box.width / 2, box.y + 40)
  await page.mouse.down()
  await taken(page, 'longTasks')
  // The hand moves within the page, once a picture: moving it from outside takes a processor of its own.
  const { frames, ms } = await plot.evaluate(
    (canvas, forMs) =>
      new Promise<{ frames: number; ms: number }>((resolve) => {
        const own = window as unknown as { plots: number }
        const { left, width, top } = canvas.getBoundingClientRect()
        const from = performance.now()
        let step = 0
        own.plots = 0
        requestAnimationFrame(function move() {
          const ms = performance.now() - from
          if (ms >= forMs) return resolve({ frames: own.plots, ms })
          const clientX = left + width / 2 + 200 * Math.sin(step++ / 40)
          canvas.dispatchEvent(new PointerEvent('pointermove', { clientX, clientY: top + 40, bubbles: true }))
          requestAnimationFrame(move)
        })
      }),
    dragMs,
  )
  await page.mouse.up()
  return { frames, ms, longest: Math.max(0, ...(await taken(page, 'longTasks'))) }
}

/** A million rows on the screen: what the page takes while they come, and how smoothly they are dragged. */
export const logPage: Bench = {
  name: 'log-page',
  async measure() {
    await needServer()
    needPages()
    // Made first: meanwhile nothing is answered, and a connection that is kept would be given up.
    const file = new Uint8Array(largeLog())
    const program = new Program()
    await program.start()
    const browser = await chromium.launch(launchForm)
    try {
      await writeRound(program)
      const form = new FormData()
      form.append('kind', 'idle')
      form.append('by', 'R. Lund')
      form.append('file', new File([file], 'million.csv'))
      const answer = await fetch(`${program.address}/api/cases/${theCase}/logs`, {
        method: 'POST',
        body: form,
      })
      if (!answer.ok) throw new Error(await answer.text())
      const { id } = (await answer.json()) as { id: string }
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
      await watchTasks(page)
      // What carries functions into the page names them by this.
      await page.addInitScript('window.__name = (named) => named')
      await page.addInitScript(() => {
        const own = window as unknown as { plots: number }
        const put = CanvasRenderingContext2D.prototype.putImageData
        CanvasRenderingContext2D.prototype.putImageData = function (...what: unknown[]) {
          own.plots++
          ;(put as (...all: unknown[]) => void).apply(this, what)
        }
      })
      await page.goto(`${program.address}/rounds/${theCase}`)
      await drawn(page)
      const from = performance.now()
      const begun = await open(page, `/rounds/${theCase}/logs/${id}`)
      await page.getByRole('img', { name: /channels over time/ }).waitFor({ timeout: 120_000 })
      await drawn(page)
      const opening = Math.max(begun, ...(await taken(page, 'longTasks')))
      const shownMs = performance.now() - from
      const { frames, ms, longest } = await dragged(page)
      const hertz = (frames * 1000) / ms
      const figures: Figure[] = [
        {
          name: 'longest task of the page while a million rows come onto it',
          value: opening,
          unit: 'ms',
          wanted: 'no task over 50 ms',
          holds: opening <= 50,
        },
        { name: 'a million rows on the screen after', value: shownMs, unit: 'ms' },
        {
          name: 'pictures a second while they are dragged',
          value: hertz,
          unit: '1/s',
          wanted: 'at least 50',
          holds: hertz >= 50,
        },
        {
          name: 'longest task of the page meanwhile',
          value: longest,
          unit: 'ms',
          wanted: 'no task over 50 ms',
          holds: longest <= 50,
        },
      ]
      return figures
    } finally {
      await browser.close()
      await program.leave()
    }
  },
}
