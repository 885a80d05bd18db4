import type { ProblemDocument } from '@bench-wake/server'
import { ref } from 'vue'
import { problemOf } from '../stores/api'

/** Wraps something that is asked of the server: whether it is under way, and what went wrong. */
export function useAsked() {
  const busy = ref(false)
  const problem = ref<ProblemDocument | null>(null)
  async function ask<T>(act: () => Promise<T>): Promise<T | undefined> {
    if (busy.value) return undefined
    busy.value = true
    problem.value = null
    try {
      return await act()
    } catch (error) {
      problem.value = problemOf(error)
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
