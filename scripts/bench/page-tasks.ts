import type { Page } from '@playwright/test'

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
