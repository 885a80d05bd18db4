import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, shallowRef, type ShallowRef } from 'vue'
import { useTurns } from './useTurns'

/** A list, drawn so many parts a turn. */
const turnsOf = (list: ShallowRef<string[]>, each: number) => {
  const scope = effectScope()
  const ownName = (part: string) => part
  return { scope, drawn: scope.run(() => useTurns(() => list.value, each, ownName))! }
}

describe('parts of a screen, drawn in turns', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  it('draws so many a turn until all stand, and keeps what stands where there are fewer', async () => {
    const count = shallowRef(5)
    const scope = effectScope()
    const drawn = scope.run(() => useTurns(() => count.value, 2))!
    expect(drawn.value).toBe(0)
    vi.advanceTimersToNextTimer()
    expect(drawn.value).toBe(2)
    vi.runAllTimers()
    expect(drawn.value).toBe(6)
    count.value = 3
    await nextTick()
    vi.runAllTimers()
    expect(drawn.value).toBe(6)
    scope.stop()
  })

  it('draws a list read anew at once where its parts stood, and no more new ones than a turn has', async () => {
    const list = shallowRef(['a', 'b', 'c'])
    const { scope, drawn } = turnsOf(list, 2)
    vi.runAllTimers()
    list.value = ['a', 'x', 'b', 'y', 'z', 'c']
    await nextTick()
    // The third new one waits for the next turn, and all behind it.
    expect(drawn.value).toBe(4)
    vi.advanceTimersToNextTimer()
    expect(drawn.value).toBe(6)
    scope.stop()
  })

  it('draws one turn of a list of other parts at once, and nothing more once the screen is left', async () => {
    const list = shallowRef(['a', 'b'])
    const { scope, drawn } = turnsOf(list, 1)
    vi.advanceTimersToNextTimer()
    expect(drawn.value).toBe(1)
    list.value = ['p', 'q', 'r']
    await nextTick()
    expect(drawn.value).toBe(1)
    scope.stop()
    vi.runAllTimers()
    expect(drawn.value).toBe(1)
  })
})
