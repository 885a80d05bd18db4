import { chromium, type Page } from '@playwright/test'
import { createClient } from '@libsql/client'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { launchForm } from '../../e2e/chromium'
import { Program, unfold } from '../../e2e/program'
import { needPages, needServer } from '../server.mjs'
import type { Bench, Figure } from './figure'
import { busiest, drawn, open, stillMs, taken, watchTasks } from './page-tasks'

/** Rows of a long list. */
const manyRows = 10_000
/** Each screen is opened as often, and the middle one counts. */
const times = 3

/** Screens of the demo, by the address that a person opens. */
const screensOf = async (program: Program): Promise<[string, string][]> => {
  const [image] = await program.get('/images')
  const [run] = await program.get('/logbook')
  return [
    ['Today', '/'],
    ['Units', '/units'],
    ['a unit', '/units/fog-07'],
    ['Shelf', '/shelf'],
    ['fits', '/shelf/fits'],
    ['an image', `/shelf/${image.id}`],
    ['Families', '/families'],
    ['a family', '/families/fog-signal'],
    ['Teach', '/families/teach'],
    ['Rounds', '/rounds'],
    ['a case', '/rounds/case-launch-3'],
    ['Calculators', '/sums'],
    ['Workshop rules', '/workshop-rules'],
    ['Adapters', '/adapters'],
    ['Ports', '/ports'],
    ['Drill', '/drill'],
    ['a job at its bench', '/jobs/job-fog-07'],
    ['a plan', '/jobs/job-fog-07/plan'],
    ['the coach', '/jobs/job-fog-07/entry'],
    ['Logbook', '/logbook'],
    ['a record', `/logbook/${run.runId}`],
  ]
}

const middle = (values: number[]) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!

/** Every unit of the demo copied until there are so many. */
async function copyUnits(folder: string): Promise<void> {
  const client = createClient({ url: `file:${join(folder, 'bench-wake.db')}` })
  await client.execute({
    sql: `insert into units (id, family_id, name, place, serial, added_at)
      with recursive n(i) as (select 1 union all select i + 1 from n where i < ?),
      u as (select *, row_number() over (order by id) as at from units)
      select u.id || '-' || i, u.family_id, u.name || ' ' || i, u.place, u.serial || '-' || i, u.added_at
      from n join u on u.at = 1 + i % (select count(*) from units)`,
    args: [manyRows],
  })
  client.close()
}

/** What a person waits for on the screen: opening each, every key on a bench input, long lists, the first load. */
export const screens: Bench = {
  name: 'screens',
  async measure() {
    await needServer()
    needPages()
    const program = new Program()
    await program.start()
    const browser = await chromium.launch(launchForm)
    const figures: Figure[] = []
    const opened = async (name: string, act: (time: number) => Promise<number>): Promise<Figure[]> => {
      const wall: number[] = []
      const busy: number[] = []
      for (let time = 0; time < times; time++) {
        let longest = 0
        busy.push(await busiest(browser, async () => (longest = await act(time))))
        wall.push(longest)
      }
      return [
        {
          name: `longest task on opening ${name}, time of the processor`,
          value: middle(busy),
          unit: 'ms',
          wanted: 'no task over 50 ms',
          holds: middle(busy) <= 50,
        },
        // On a machine that others use this is longer, by what they take.
        {
          name: `longest task on opening ${name}, by the clock, where over 50 ms`,
          value: middle(wall),
          unit: 'ms',
        },
      ]
    }
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
      await watchTasks(page)
      await page.goto(program.address)
      await drawn(page)
      const script = await page.evaluate(() =>
        (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
          .filter(({ name }) => new URL(name).pathname.endsWith('.js'))
          .reduce((sum, { encodedBodySize }) => sum + encodedBodySize, 0),
      )
      figures.push({
        name: 'script of the first load, compressed',
        value: script / 1024,
        unit: 'KiB',
        reference: 300,
        ratio: script / 1024 / 300,
        wanted: 'at most 300',
        holds: script / 1024 <= 300,
      })
      const start = await opened('the program', async () => {
        // Each as one who opens it anew: nothing of it is in the browser yet.
        const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
        const fresh = await context.newPage()
        await watchTasks(fresh)
        await fresh.goto(program.address)
        await drawn(fresh)
        const longest = Math.max(0, ...(await taken(fresh, 'longTasks')))
        await context.close()
        return longest
      })
      figures.push(...start)
      await taken(page, 'longTasks')
      const elsewhere = (path: string) => open(page, path === '/' ? '/workshop-rules' : '/')
      for (const [name, path] of await screensOf(program)) {
        const figure = await opened(name, async (time) => {
          if (time > 0) await elsewhere(path)
          return open(page, path)
        })
        figures.push(...figure)
        await elsewhere(path)
      }
      await program.send('POST', '/units/fog-07/snapshots', { port: 'stand-in:fog-07' })
      figures.push(...(await keys(page)))

      await program.end('SIGTERM')
      await copyUnits(program.folder)
      await program.start()
      await page.goto(program.address)
      await drawn(page)
      const took: number[] = []
      const many = await opened(`${manyRows} units`, async (time) => {
        if (time > 0) await open(page, '/')
        const from = performance.now()
        const longest = await open(page, '/units')
        took.push(performance.now() - from)
        return longest
      })
      figures.push(...many, {
        name: `${manyRows} units on the screen after`,
        value: middle(took),
        unit: 'ms',
      })
      figures.push(await scrolled(page))
    } finally {
      await browser.close()
      await program.end('SIGKILL')
      rmSync(program.folder, { recursive: true, force: true })
    }
    return figures
  },
}

/** A key on every field of the bench: until what it changes is drawn. */
async function keys(page: Page): Promise<Figure[]> {
  await open(page, '/jobs/job-fog-07')
  for (const part of await page.locator('[data-part]').all()) await unfold(part)
  await page.waitForTimeout(stillMs)
  const fields = page.locator('main input[type=text]:visible, main input:not([type]):visible')
  const count = await fields.count()
  let slowest = 0
  let worst = 0
  await taken(page, 'slowEvents')
  for (let at = 0; at < count; at++) {
    const field = fields.nth(at)
    if (!(await field.isEditable().catch(() => false))) continue
    await field.focus()
    const tries: number[][] = []
    for (let time = 0; time < times; time++)
      for (const [index, key] of ['1', '2', 'Backspace', 'Backspace'].entries()) {
        await page.keyboard.press(key)
        await page.waitForTimeout(80)
        // Below 16 ms an event is not told.
        ;(tries[index] ??= []).push(Math.max(16, ...(await taken(page, 'slowEvents'))))
      }
    slowest = Math.max(slowest, ...tries.map(middle))
    worst = Math.max(worst, ...tries.flat())
  }
  return [
    { name: 'fields of the bench that were typed in', value: count, unit: 'fields' },
    { name: 'from a key to the drawn answer, the slowest single one by the clock', value: worst, unit: 'ms' },
    {
      name: `from a key to the drawn answer, the slowest key, the middle of ${times} times`,
      value: slowest,
      unit: 'ms',
      reference: 50,
      ratio: slowest / 50,
      wanted: 'under 50 ms',
      holds: slowest < 50,
    },
  ]
}

/** A long list moved by its wheel: frames in which no row stood in its middle. */
async function scrolled(page: Page): Promise<Figure> {
  const blank = await page.evaluate(async () => {
    let blanks = 0
    for (let step = 0; step < 60; step++) {
      scrollBy(0, 300)
      await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))
      const middle = document.elementFromPoint(innerWidth / 2, innerHeight / 2)
      if (!middle || middle === document.body || middle === document.documentElement) blanks++
    }
    return blanks
  })
  return {
    name: `blank frames while ${manyRows} rows are scrolled`,
    value: blank,
    unit: 'frames',
    wanted: 'none',
    holds: blank === 0,
  }
}
