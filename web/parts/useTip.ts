import { onKeyStroke, useTimeoutFn } from '@vueuse/core'
import { shallowRef } from 'vue'

/** Words over a place of the page, px. */
export interface Tip {
  says: string
  x: number
  y: number
}
/** Who passes over something on the way elsewhere is told nothing. */
const afterMs = 400

/**
 * What names a thing to who points at it or comes to it by keys; Escape takes it away. `tip` is shown by `TipBubble`;
 * `named` gives what a thing listens to.
 */
export function useTip() {
  const tip = shallowRef<Tip | null>(null)
  const { start, stop } = useTimeoutFn(
    (says: string, of: Element) => {
      const { left, width, bottom } = of.getBoundingClientRect()
      tip.value = { says, x: left + width / 2, y: bottom }
    },
    afterMs,
    { immediate: false },
  )
  const hide = () => {
    stop()
    tip.value = null
  }
  onKeyStroke('Escape', hide)
  const named = (says: string) => {
    const show = ({ currentTarget }: Event) => start(says, currentTarget as Element)
    return { pointerenter: show, focusin: show, pointerleave: hide, focusout: hide, click: hide }
  }
  return { tip, named }
}
