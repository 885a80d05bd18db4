import type { ProblemDocument } from '@bench-wake/server'
import { getCurrentInstance, nextTick, onMounted, ref, watch } from 'vue'
import { answers, changesAsked, problemOf } from '../stores/api'
import { tell } from '../stores/said'

/**
 * Wraps something that is asked of the server: whether it is under way, and what went wrong. What a screen
 * reads as it opens, and did not come while the program was gone, is read once it answers; all else waits for the person.
 */
export function useAsked() {
  /** What a person asked for is under way: nothing else is taken meanwhile. */
  const busy = ref(false)
  /** What the screen reads as it opens is under way. What is pressed meanwhile is done after it. */
  const reading = ref(false)
  const problem = ref<ProblemDocument | null>(null)
  let again: (() => Promise<unknown>) | undefined
  let read: Promise<unknown> = Promise.resolve()
  /** Only what a screen reads as it opens is asked again: what a person pressed never happens later by itself. */
  let opening = getCurrentInstance() !== null
  if (opening) onMounted(() => void nextTick(() => (opening = false)))
  watch(answers, (now) => {
    if (!now) return
    if (again) void again()
    else if (problem.value?.kind === 'unreachable') problem.value = null
  })
  async function carryOut<T>(act: () => Promise<T>): Promise<T | undefined> {
    problem.value = null
    try {
      return await act()
    } catch (error) {
      problem.value = problemOf(error)
      return undefined
    }
  }
  /** What is pressed meanwhile, and fails as well, leaves it to be read. */
  async function carryOutReading<T>(act: () => Promise<T>): Promise<T | undefined> {
    again = undefined
    const changes = changesAsked()
    const answer = await carryOut(act)
    if (problem.value?.kind === 'unreachable' && changesAsked() === changes) again = () => open(act)
    return answer
  }
  async function open<T>(act: () => Promise<T>): Promise<T | undefined> {
    const mine = reading.value ? read.then(() => carryOutReading(act)) : carryOutReading(act)
    reading.value = true
    read = mine
    const answer = await mine
    if (read === mine) reading.value = false
    return answer
  }
  /** @param done what is told to the person once it is done, where the screen would not show it. */
  async function ask<T>(act: () => Promise<T>, done?: string): Promise<T | undefined> {
    if (opening) return open(act)
    if (busy.value) return undefined
    busy.value = true
    try {
      if (reading.value) await read
      const answer = await carryOut(act)
      if (done !== undefined && problem.value === null) tell(done)
      return answer
    } finally {
      busy.value = false
    }
  }
  /** The same, after what is under way: nothing that a person did is dropped. */
  let turn: Promise<unknown> = Promise.resolve()
  function askInTurn<T>(act: () => Promise<T>): Promise<T | undefined> {
    const mine = turn.then(() => ask(act))
    turn = mine
    return mine
  }
  return { busy, reading, problem, ask, askInTurn }
}
