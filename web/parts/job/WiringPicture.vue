<script setup lang="ts">
import type { Wiring } from '@bench-wake/core/family'
import { pinText, type Adapter } from '@bench-wake/core/ready'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'

/**
 * Adapter and unit as two rows of pins, and the wires between. A wire is drawn by dragging, by two clicks, or with the
 * keyboard: choose a pin, then one of the other side. The same again takes it off.
 */
const {
  adapter,
  wiring,
  joins,
  faults,
  fixed = false,
} = defineProps<{
  adapter: Adapter
  wiring: Wiring
  joins: readonly (readonly [string, string])[]
  /** What is wrong with a wire, by "adapter pin\ttarget pin". */
  faults: ReadonlyMap<string, string>
  /** For the card: drawn, not changed. */
  fixed?: boolean
}>()
const emit = defineEmits<{ toggle: [from: string, to: string] }>()

type Side = 'adapter' | 'target'
const row = 48
const width = 260
const chosen = ref<{ side: Side; id: string } | null>(null)
const board = ref<HTMLElement[]>()
const drag = ref<{ x: number; y: number } | null>(null)

const height = computed(() => Math.max(adapter.pins.length, wiring.pins.length) * row)
const yOf = (side: Side, id: string) => {
  const pins = side === 'adapter' ? adapter.pins : wiring.pins
  return (pins.findIndex((pin) => pin.id === id) + 0.5) * row
}
const wires = computed(() =>
  joins.map(([from, to]) => {
    const [y1, y2] = [yOf('adapter', from), yOf('target', to)]
    const role = adapter.pins.find(({ id }) => id === from)?.role ?? 'none'
    return {
      key: `${from}\t${to}`,
      path: `M0 ${y1} C ${width * 0.45} ${y1}, ${width * 0.55} ${y2}, ${width} ${y2}`,
      middle: { x: width / 2, y: (y1 + y2) / 2 },
      role,
      wrong: faults.get(`${from}\t${to}`),
    }
  }),
)
const joined = (side: Side, id: string) =>
  joins.flatMap(([from, to]) => (side === 'adapter' ? (from === id ? [to] : []) : to === id ? [from] : []))

function choose(side: Side, id: string) {
  if (fixed) return
  const before = chosen.value
  if (!before || before.side === side) {
    chosen.value = before?.id === id && before.side === side ? null : { side, id }
    return
  }
  emit('toggle', side === 'target' ? before.id : id, side === 'target' ? id : before.id)
  chosen.value = null
}

/** Where a drag began; it is one only when the pointer leaves the pin. */
let from: { side: Side; id: string } | null = null
const press = (side: Side, id: string) => {
  if (!fixed) from = { side, id }
}
useEventListener('pointermove', (event: PointerEvent) => {
  const [wiresBox] = board.value ?? []
  if (!from || !wiresBox) return
  const { left, top } = wiresBox.getBoundingClientRect()
  drag.value = { x: event.clientX - left, y: event.clientY - top - 36 }
})
useEventListener('pointerup', (event: PointerEvent) => {
  const start = from
  from = null
  drag.value = null
  if (!start) return
  const pin = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-pin]')
  const side = pin?.dataset['side'] as Side | undefined
  const id = pin?.dataset['pin']
  if (!side || !id || side === start.side) return
  emit('toggle', side === 'target' ? start.id : id, side === 'target' ? id : start.id)
  chosen.value = null
})
const dragPath = computed(() => {
  if (!from || !drag.value) return ''
  const x = from.side === 'adapter' ? 0 : width
  return `M${x} ${yOf(from.side, from.id)} L ${drag.value.x} ${drag.value.y}`
})
const sides = computed(() => [
  { side: 'adapter' as const, name: adapter.name, pins: adapter.pins },
  { side: 'target' as const, name: wiring.connector, pins: wiring.pins },
])
const label = (side: Side, id: string) => {
  const others = joined(side, id)
  return others.length ? `, joined to ${others.join(' and ')}` : ', not joined'
}
</script>

<template>
  <div
    class="grid grid-cols-[minmax(120px,200px)_260px_minmax(150px,230px)] phone:grid-cols-[minmax(0,1fr)_90px_minmax(0,1fr)]"
    role="group"
    :aria-label="`${adapter.name} and ${wiring.connector}`"
  >
    <!-- A drag from a pin draws a wire; everywhere else a finger scrolls the page. -->
    <template v-for="each in sides" :key="each.side">
      <div class="side" :class="each.side">
        <p class="name flex pb-1 small soft h-9 items-end leading-[1.2]">{{ each.name }}</p>
        <button
          v-for="pin in each.pins"
          :key="pin.id"
          type="button"
          class="pin font-inherit text-inherit bg-transparent bare-border p-0 w-full h-12 flex gap-2 items-center text-left cursor-pointer rounded touch-none"
          :class="{ chosen: chosen?.side === each.side && chosen.id === pin.id, idle: pin.role === 'none' }"
          :data-side="each.side"
          :data-pin="pin.id"
          :aria-pressed="chosen?.side === each.side && chosen.id === pin.id"
          :aria-label="`${pinText(pin)}${label(each.side, pin.id)}`"
          :disabled="fixed"
          @click="choose(each.side, pin.id)"
          @pointerdown="press(each.side, pin.id)"
        >
          <i
            class="mono not-italic small min-w-10 h-8.5 px-1.5 grid place-items-center frame-ink bg-sheet rounded phone:min-w-7.5"
            >{{ pin.id }}</i
          >
          <span class="text-body leading-[1.2]"
            >{{ pin.id === pin.name ? '' : pin.name
            }}<small v-if="pin.volts && pin.name !== `${pin.volts} V`" class="block small soft"
              >{{ pin.volts }} V</small
            ><small v-if="pin.open" class="open block small soft">stays open</small></span
          >
        </button>
      </div>
      <div v-if="each.side === 'adapter'" ref="board" class="pt-9">
        <svg
          class="block phone:w-22.5"
          :width="width"
          :height="height"
          :viewBox="`0 0 ${width} ${height}`"
          preserveAspectRatio="none"
          aria-hidden="true"
        >
          <g v-for="wire in wires" :key="wire.key" :class="['wire', wire.role, { wrong: wire.wrong }]">
            <path :d="wire.path" />
            <path
              v-if="wire.wrong"
              class="mark"
              :d="`M${wire.middle.x - 7} ${wire.middle.y - 7}l14 14m0-14l-14 14`"
            />
          </g>
          <path v-if="dragPath" class="dragged fill-none stroke-brass stroke-width-3" :d="dragPath" />
        </svg>
      </div>
    </template>
  </div>
</template>

<style scoped>
.adapter .name {
  justify-content: end;
  text-align: right;
}
.adapter .pin {
  flex-direction: row-reverse;
  text-align: right;
}
.pin:hover i {
  border-color: var(--brass);
}
.pin.chosen i {
  background: var(--brass);
  border-color: var(--brass);
  color: var(--brass-ink);
}
.pin.idle {
  color: var(--soft);
}
.pin.idle i {
  border-style: dashed;
}
.pin:disabled {
  cursor: default;
}
.wire path {
  fill: none;
  stroke: var(--hull);
  stroke-width: 3;
}
.wire.ground path {
  stroke: var(--ink);
  stroke-width: 4;
}
.wire.supply path {
  stroke-dasharray: 9 4;
}
.wire.wrong path {
  stroke: var(--stop);
}
.wire.wrong .mark {
  stroke-width: 3;
  stroke-dasharray: none;
}
.dragged {
  stroke-dasharray: 5 4;
}
</style>
