import { effectScope, ref } from 'vue'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { useSettled } from './useSettled'

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

/** What stands there, what is told of it, and how often it was told that it can be pressed. */
function standing(first?: string) {
  const what = ref<string | undefined>(first)
  const settled = vi.fn()
  const scope = effectScope()
  const unread = scope.run(() => useSettled(() => what.value, settled, 400))!
  return { what, settled, unread, scope }
}

test('what stands there as the screen opens is not ready at once, and is told when it is', () => {
  const { settled, unread } = standing('panel')
  expect(unread.value).toBe(true)
  vi.advanceTimersByTime(399)
  expect([unread.value, settled.mock.calls.length]).toEqual([true, 0])
  vi.advanceTimersByTime(1)
  expect([unread.value, settled.mock.calls.length]).toEqual([false, 1])
})

test('where nothing stands there is nothing to wait for', () => {
  const { what, settled, unread } = standing()
  expect(unread.value).toBe(false)
  what.value = 'panel'
  expect(unread.value).toBe(true)
  what.value = undefined
  expect(unread.value).toBe(false)
  vi.advanceTimersByTime(1000)
  expect(settled).not.toHaveBeenCalled()
})

test('what comes in its place begins anew, before it is drawn', () => {
  const { what, settled, unread } = standing('panel')
  vi.advanceTimersByTime(400)
  what.value = 'battery'
  expect(unread.value).toBe(true)
  vi.advanceTimersByTime(300)
  what.value = 'fuse'
  vi.advanceTimersByTime(300)
  expect([unread.value, settled.mock.calls.length]).toEqual([true, 1])
  vi.advanceTimersByTime(100)
  expect([unread.value, settled.mock.calls.length]).toEqual([false, 2])
})

test('a screen that goes is told nothing more', () => {
  const { settled, scope } = standing('panel')
  scope.stop()
  vi.advanceTimersByTime(1000)
  expect(settled).not.toHaveBeenCalled()
})
