import type { Browser, Page } from '@playwright/test'

/** A screen that has been drawn is still for so long, ms. */
export const stillMs = 400

/** Long tasks of a page from here on, ms each (W3C Long Tasks: what keeps the thread for 50 ms and more). */
export async function watchTasks(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const own = window as unknown as { longTasks: number[]; slowEvents: number[]; asking: number }
    own.asking = 0
    const fetched = window.fetch.bind(window)
    window.fetch = async (...what) => {
      own.asking++
      try {
        const answer = await fetched(...what)
        // A live view never ends.
        if (!answer.headers.get('content-type')?.startsWith('text/event-stream')) await answer.clone().text()
        return answer
      } finally {
        own.asking--
      }
    }
    own.longTasks = []
    own.slowEvents = []
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) own.longTasks.push(duration)
    }).observe({ type: 'longtask', buffered: true })
    // W3C Event Timing: from a key to the frame that was painted after it.
    new PerformanceObserver((list) => {
      for (const { duration, name } of list.getEntries())
        if (name === 'keydown' || name === 'keypress' || name === 'input') own.slowEvents.push(duration)
    }).observe({ type: 'event', durationThreshold: 16 } as PerformanceObserverInit)
  })
}
/** What was seen since it was asked last, ms each. */
export const taken = (page: Page, which: 'longTasks' | 'slowEvents') =>
  page.evaluate((name) => {
    const own = window as unknown as Record<string, number[]>
    return own[name]!.splice(0)
  }, which)

/** What a page's thread did, as a browser's tracing tells it. */
interface Traced {
  name: string
  ph: string
  pid: number
  tid: number
  /** Time of the processor that it took, microseconds. */
  tdur?: number
  args?: { name?: string }
}

/**
 * The longest task of any page while something is done, by the time of the processor that it took, ms: what others take of
 * a shared machine meanwhile is not in it.
 */
export async function busiest(browser: Browser, act: () => Promise<unknown>): Promise<number> {
  const devtools = await browser.newBrowserCDPSession()
  const events: Traced[] = []
  devtools.on('Tracing.dataCollected', ({ value }) => events.push(...(value as unknown as Traced[])))
  const categories = { includedCategories: ['toplevel'] }
  await devtools.send('Tracing.start', { transferMode: 'ReportEvents', traceConfig: categories })
  await act()
  const complete = new Promise((resolve) => devtools.once('Tracing.tracingComplete', resolve))
  await devtools.send('Tracing.end')
  await complete
  await devtools.detach()
  const threadOf = ({ pid, tid }: Traced) => `${pid} ${tid}`
  const drawing = new Set(
    events
      .filter(({ name, args }) => name === 'thread_name' && args?.name === 'CrRendererMain')
      .map(threadOf),
  )
  const tasks = events.filter((event) => event.ph === 'X' && drawing.has(threadOf(event)))
  if (tasks.length === 0) throw new Error('this browser tells no tasks of its pages')
  return Math.max(...tasks.map(({ tdur = 0 }) => tdur)) / 1000
}

/** Waits until nothing is asked of the program, and all of it has been drawn. */
export async function drawn(page: Page): Promise<void> {
  const began = performance.now()
  for (let still = 0; still < stillMs && performance.now() - began < 60_000; still += 50) {
    await page.waitForTimeout(50)
    if ((await page.evaluate(() => (window as unknown as { asking: number }).asking)) > 0) still = 0
  }
}

/** Opens another screen of the page that is open, as a link in it does, and waits until it is drawn. */
export async function open(page: Page, path: string): Promise<number> {
  await taken(page, 'longTasks')
  await page.evaluate((to) => {
    history.pushState({}, '', to)
    dispatchEvent(new PopStateEvent('popstate', { state: {} }))
  }, path)
  await drawn(page)
  return Math.max(0, ...(await taken(page, 'longTasks')))
}
