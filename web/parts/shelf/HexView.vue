<script setup lang="ts">
import { type HexRow } from '@bench-wake/core/image'
import { addressText, groupedNumber, hexNumber } from '@bench-wake/core/kernel'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { ImageDesk } from '../../workers/image-desk'

/** Bytes of an image of any size: only the rows that are seen are ever asked for. */
const {
  desk,
  image,
  rows,
  lines = 20,
  marked = [],
} = defineProps<{
  desk: ImageDesk
  image: string
  /** All rows of the image. */
  rows: number
  lines?: number
  /** Stretches to point out. */
  marked?: readonly { address: number; length: number }[]
}>()
const top = defineModel<number>('top', { default: 0 })

const seen = ref<HexRow[]>([])
const last = computed(() => Math.max(0, rows - lines))
const ask = async () => {
  const asked = top.value
  const found = await desk('rows', image, asked, lines)
  if (asked === top.value) seen.value = found
}
watch([() => image, () => rows, top], ask, { immediate: true })

function move(by: number) {
  top.value = Math.min(last.value, Math.max(0, Math.round(top.value + by)))
}
function wheel(event: WheelEvent) {
  const by = event.deltaMode === 1 ? event.deltaY : event.deltaY / 24
  const before = top.value
  move(by > 0 ? Math.max(1, by) : Math.min(-1, by))
  // At either end the page scrolls on.
  if (top.value !== before) event.preventDefault()
}
let touchedAt = 0
const touch = (event: TouchEvent) => {
  const at = event.touches[0]!.clientY
  if (event.type === 'touchmove') {
    const by = (touchedAt - at) / 22
    if (Math.abs(by) < 1) return
    event.preventDefault()
    move(by)
  }
  touchedAt = at
}
const keys: Record<string, () => void> = {
  ArrowDown: () => move(1),
  ArrowUp: () => move(-1),
  PageDown: () => move(lines - 1),
  PageUp: () => move(1 - lines),
  Home: () => move(-rows),
  End: () => move(rows),
}
function key(event: KeyboardEvent) {
  const act = keys[event.key]
  if (!act) return
  event.preventDefault()
  act()
}
const drag = useDebounceFn((value: string) => move(Number(value) - top.value), 16)

const isMarked = (address: number) =>
  marked.some((each) => address >= each.address && address < each.address + each.length)
const letter = (byte: number | null) =>
  byte === null ? ' ' : byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·'
</script>

<template>
  <div class="hex grid gap-1.5 grid-cols-[minmax(0,1fr)_24px] line-a bg-sheet">
    <div
      class="mono py-2 px-3 overflow-x-auto small leading-5.5 touch-none"
      tabindex="0"
      role="group"
      :aria-label="`Bytes, row ${top + 1} of ${rows}; arrow and page keys move`"
      @wheel="wheel"
      @touchstart.passive="touch"
      @touchmove="touch"
      @keydown="key"
    >
      <div v-for="row in seen" :key="row.address + row.kind" class="row" :class="row.kind">
        <template v-if="row.kind === 'gap'">
          <span class="address">{{ addressText(row.address) }}</span>
          <span class="gap soft">nothing set for {{ groupedNumber(row.length) }} bytes</span>
        </template>
        <template v-else>
          <span class="address">{{ addressText(row.address) }}</span>
          <span class="cells grid grid-cols-[repeat(16,1fr)]"
            ><span
              v-for="(byte, place) in row.bytes"
              :key="place"
              :class="{ none: byte === null, mark: isMarked(row.address + place) }"
              >{{ byte === null ? '--' : hexNumber(byte, 2) }}</span
            ></span
          >
          <span class="text">{{ row.bytes.map(letter).join('') }}</span>
        </template>
      </div>
    </div>
    <input
      v-if="last > 0"
      class="slide w-6 h-full"
      type="range"
      min="0"
      :max="last"
      :value="top"
      aria-label="Place in the image"
      :aria-valuetext="`row ${top + 1} of ${rows}`"
      @input="drag(($event.target as HTMLInputElement).value)"
    />
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 96px 440px auto;
  gap: 16px;
  white-space: pre;
}
.address {
  color: var(--soft);
}
.gap {
  font-family: var(--text);
}
.cells span:nth-child(9) {
  padding-left: 6px;
}
.none {
  color: var(--edge);
}
.mark {
  background: var(--water);
  box-shadow: inset 0 -2px 0 var(--brass);
}
.slide {
  writing-mode: vertical-lr;
  accent-color: var(--brass);
}
@media (max-width: 700px) {
  .row {
    grid-template-columns: 84px 300px auto;
    gap: 8px;
    font-size: 12px;
  }
}
</style>
