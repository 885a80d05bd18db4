import type { ProblemDocument } from '@bench-wake/server'
import { getCurrentInstance, nextTick, onMounted, ref, watch } from 'vue'
import { answers, changesAsked, problemOf } from '../stores/api'

/**
 * Wraps something that is asked of the server: whether it is under way, and what went wrong. What a screen
 * reads as it opens, and did not come while the program was gone, is read once it answers; all else waits for the person.
 */
export function useAsked() {
  const busy = ref(false)
  const problem = ref<ProblemDocument | null>(null)
  let again: (() => Promise<unknown>) | undefined
  /** Only what a screen reads as it opens is asked again: what a person pressed never happens later by itself. */
  let opening = getCurrentInstance() !== null
  if (opening) onMounted(() => void nextTick(() => (opening = false)))
  watch(answers, (now) => {
    if (!now || problem.value?.kind !== 'unreachable') return
    if (again) void again()
    else problem.value = null
  })
  async function ask<T>(act: () => Promise<T>): Promise<T | undefined> {
    if (busy.value) return undefined
    busy.value = true
    problem.value = null
    again = undefined
    const changes = changesAsked()
    const opens = opening
    try {
      return await act()
    } catch (error) {
      problem.value = problemOf(error)
      if (opens && changesAsked() === changes) again = () => ask(act)
      return undefined
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
  return { busy, problem, ask, askInTurn }
}
