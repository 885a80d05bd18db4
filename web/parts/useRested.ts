import { onScopeDispose, shallowRef, watch, type ShallowRef } from 'vue'

/** What is drawn slowly waits until nothing has changed for so long, ms: longer than from one key of a typist to the next. */
const restMs = 700

/** A value that follows its source once that is at rest: a key is answered at once by figures, and then by the picture. */
export function useRested<T>(source: () => T): Readonly<ShallowRef<T>> {
  const rested = shallowRef(source())
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(source, (now) => {
    clearTimeout(timer)
    timer = setTimeout(() => (rested.value = now), restMs)
  })
  onScopeDispose(() => clearTimeout(timer))
  return rested
}
