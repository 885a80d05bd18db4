import { useTimeoutFn } from '@vueuse/core'
import { watch, type Ref } from 'vue'

/** Longer than two presses in a row lie apart, ms, and shorter than anybody reads a question. */
const readMs = 400

/**
 * A hand that presses twice meant what stood there before: what comes in its place under the hand can be pressed a moment
 * later only.
 * @param what what stands there; undefined while nothing does.
 * @param settled called once it can be pressed.
 * @param ms how long it stands there before.
 * @returns whether it cannot be pressed yet.
 */
export function useSettled(
  what: () => string | undefined,
  settled: () => unknown,
  ms = readMs,
): Readonly<Ref<boolean>> {
  const { isPending, start, stop } = useTimeoutFn(settled, ms, { immediate: false })
  // Before it is drawn: no frame shows it as one that can be pressed.
  watch(what, (now) => (now === undefined ? stop() : start()), { immediate: true, flush: 'sync' })
  return isPending
}
