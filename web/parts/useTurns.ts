import { onScopeDispose, ref, watch } from 'vue'

/**
 * How many parts of a screen are drawn so far: `each` more a turn, up to `count`. A key pressed meanwhile is answered
 * between two of them. What has been drawn stays when something is read again.
 */
export function useTurns(count: () => number, each = 1) {
  const drawn = ref(0)
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(
    count,
    (all) => {
      clearTimeout(timer)
      const more = () => {
        if (drawn.value >= all) return
        drawn.value += each
        timer = setTimeout(more)
      }
      timer = setTimeout(more)
    },
    { immediate: true },
  )
  onScopeDispose(() => clearTimeout(timer))
  return drawn
}
