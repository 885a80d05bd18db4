import { createRenderer, nextTick } from 'vue'
import { beforeEach, describe, expect, test, vi } from 'vitest'
import { answers, got } from '../stores/api'
import { useAsked } from './useAsked'

/** A component without a page: its setup and its life are all that is asked of it. */
const { createApp } = createRenderer<object, object>({
  insert: () => {},
  remove: () => {},
  createElement: () => ({}),
  createText: () => ({}),
  createComment: () => ({}),
  setText: () => {},
  setElementText: () => {},
  parentNode: () => null,
  nextSibling: () => null,
  patchProp: () => {},
})

/** The program is there, or it is gone: then a request fails as a browser's does. */
let there = true
const asks = <T>(content: T) =>
  got<T>(there ? Promise.resolve(Response.json(content)) : Promise.reject(new TypeError('Failed to fetch')))
const screen = async (reads?: () => Promise<unknown>) => {
  let asked!: ReturnType<typeof useAsked>
  createApp({
    setup() {
      asked = useAsked()
      if (reads) void asked.ask(reads)
      return () => null
    },
  }).mount({})
  await nextTick()
  await nextTick()
  return asked
}
const settled = () => new Promise((resolve) => setTimeout(resolve))

beforeEach(() => {
  there = true
  answers.value = true
})

describe('a program that is gone, and comes back', () => {
  const comesBack = async () => {
    there = true
    answers.value = true
    await nextTick()
    await settled()
  }

  test('what the screen reads as it opens is read then', async () => {
    there = false
    const reads = vi.fn(() => asks('figures'))
    const { problem } = await screen(reads)
    await settled()
    expect(problem.value?.kind).toBe('unreachable')
    await comesBack()
    expect(reads).toHaveBeenCalledTimes(2)
    expect(problem.value).toBeNull()
  })

  test('a press that failed meanwhile does not keep the screen from being read, and is not done by itself', async () => {
    there = false
    const reads = vi.fn(() => asks('figures'))
    const { problem, ask } = await screen(reads)
    await settled()
    const press = vi.fn(() => asks('done'))
    await ask(press)
    expect(problem.value?.kind).toBe('unreachable')
    await comesBack()
    expect(reads).toHaveBeenCalledTimes(2)
    expect(press).toHaveBeenCalledTimes(1)
    expect(problem.value).toBeNull()
  })

  test('a press alone is not repeated; what was said of it goes', async () => {
    const { problem, ask } = await screen()
    there = false
    const press = vi.fn(() => asks('done'))
    await ask(press)
    expect(problem.value?.kind).toBe('unreachable')
    await comesBack()
    expect(press).toHaveBeenCalledTimes(1)
    expect(problem.value).toBeNull()
  })

  test('what has been read is not read again', async () => {
    const reads = vi.fn(() => asks('figures'))
    const { ask } = await screen(reads)
    await settled()
    there = false
    await ask(() => asks('done'))
    await comesBack()
    expect(reads).toHaveBeenCalledTimes(1)
  })

  test('a problem of another kind stays until the person acts', async () => {
    const { problem, ask } = await screen(() => asks('figures'))
    await settled()
    await ask(() => Promise.reject(new Error('a fault of this page')))
    answers.value = false
    await comesBack()
    expect(problem.value?.kind).toBe('page')
  })
})

describe('what is pressed', () => {
  test('waits for what the screen still reads, and is done then', async () => {
    const order: string[] = []
    let come!: () => void
    const { ask, reading, busy } = await screen(async () => {
      await new Promise<void>((resolve) => (come = resolve))
      order.push('read')
    })
    expect(reading.value).toBe(true)
    const pressed = ask(() => Promise.resolve(order.push('pressed')))
    await settled()
    expect(order).toEqual([])
    expect(busy.value).toBe(true)
    come()
    await pressed
    expect(order).toEqual(['read', 'pressed'])
    expect(busy.value).toBe(false)
  })

  test('twice is done once; in turn, both', async () => {
    const { ask, askInTurn } = await screen()
    const press = vi.fn(settled)
    await Promise.all([ask(press), ask(press)])
    expect(press).toHaveBeenCalledTimes(1)
    await Promise.all([askInTurn(press), askInTurn(press)])
    expect(press).toHaveBeenCalledTimes(3)
  })
})
