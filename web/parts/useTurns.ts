import { onScopeDispose, ref, watch } from 'vue'

/**
 * How many parts of a screen are drawn so far: `each` more a turn, until all are. A key pressed meanwhile is answered
 * between two of them. What has been drawn stays when something is read again.
 * @param parts how many there are, or the parts themselves
 * @param keyOf what a part is known by: those that stood stay where others come between them, so that an answer or a field
 * in one outlives a reading anew.
 */
export function useTurns<T = never>(
  parts: () => number | readonly T[],
  each = 1,
  keyOf?: (part: T) => string,
) {
  const drawn = ref(0)
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(
    parts,
    (now, before) => {
      clearTimeout(timer)
      const all = typeof now === 'number' ? now : now.length
      if (keyOf && typeof now === 'object')
        drawn.value = standing(
          now,
          typeof before === 'object' ? before.slice(0, drawn.value) : [],
          keyOf,
          each,
        )
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

/** Up to where a list can be drawn at once: what stood, and among it no more than `each` that did not. */
function standing<T>(
  now: readonly T[],
  stood: readonly T[],
  keyOf: (part: T) => string,
  each: number,
): number {
  if (stood.length === 0) return 0
  const there = new Set(stood.map(keyOf))
  let fresh = 0
  const end = now.findIndex((part) => !there.has(keyOf(part)) && ++fresh > each)
  return end === -1 ? now.length : end
}
