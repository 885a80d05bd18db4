<script setup lang="ts">
import { drawTrace, isDense, panned, within, zoomed, type TimeWindow } from '@bench-wake/core/rounds'
import { useElementSize, useRafFn } from '@vueuse/core'
import { NButton } from 'naive-ui'
import { computed, reactive, useTemplateRef, watch } from 'vue'
import type { LogDesk } from '../../workers/log-desk'
import { useLook } from '../../stores/look'
import { useChart } from '../useChart'
import { figureText, secondText } from './words'

/** Channels over time, one lane each: every column shows the lowest and highest of its rows, so nothing short is lost. */
const { desk, logs, channels, seconds } = defineProps<{
  desk: LogDesk
  /** The first is the log itself; another is drawn beside it, moved by its offset. */
  logs: readonly { id: string; name: string; offset: number }[]
  channels: readonly { name: string; unit: string; min: number | null; max: number | null }[]
  /** Length of the first log. */
  seconds: number
}>()
const cursor = defineModel<number | null>('cursor', { default: null })

const laneHeight = 78
const left = 0
const box = useTemplateRef<HTMLElement>('box')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width } = useElementSize(box)
const look = useLook()
const { colour } = useChart()
const view = reactive({ from: 0, to: Math.max(seconds, 0.001) })
const height = computed(() => channels.length * laneHeight + 22)
const columns = computed(() => Math.max(50, Math.floor(width.value - left)))

/** What the desk last answered, and whether something newer is wanted: one question at a time. */
let drawn: { from: number; to: number; lanes: Float64Array[][] } | null = null
let wanted = true
let asking = false
let shown = false
watch([() => view.from, () => view.to, columns, () => logs, () => channels], () => (wanted = true), {
  deep: true,
})
watch([cursor, () => look.light], () => (shown = false))

useRafFn(() => {
  if (wanted && !asking && width.value > 0) {
    wanted = false
    asking = true
    const { from, to } = view
    const names = channels.map(({ name }) => name)
    void Promise.all(
      logs.map(({ id, offset }) => desk('columns', id, names, from - offset, to - offset, columns.value)),
    )
      .then((lanes) => {
        drawn = { from, to, lanes }
        shown = false
      })
      // A log that was not read yet is drawn once it is.
      .catch(() => {})
      .finally(() => (asking = false))
  }
  if (!shown) draw()
})

function draw(): void {
  const target = canvas.value
  const context = target?.getContext('2d')
  if (!target || !context || !drawn) return
  shown = true
  const scale = window.devicePixelRatio || 1
  const [w, h] = [columns.value, height.value]
  if (target.width !== Math.round(w * scale)) target.width = Math.round(w * scale)
  if (target.height !== Math.round(h * scale)) target.height = Math.round(h * scale)
  const inks = [colour('hull'), colour('hold')]
  const dense = drawn.lanes.map((lanes) => lanes.map(isDense))
  paint(context, scale, inks, dense)
  context.setTransform(scale, 0, 0, scale, 0, 0)
  context.font = '13px "Atkinson Hyperlegible Mono Variable", monospace'
  channels.forEach(({ min, max }, lane) => {
    const top = lane * laneHeight
    context.strokeStyle = colour('hair')
    context.beginPath()
    context.moveTo(0, top + laneHeight - 0.5)
    context.lineTo(w, top + laneHeight - 0.5)
    context.stroke()
    if (min === null || max === null) return
    const span = max > min ? max - min : 1
    const y = (figure: number) =>
      top + laneHeight - below - ((figure - min) / span) * (laneHeight - above - below)
    drawn!.lanes.forEach((lanes, log) => {
      if (dense[log]![lane]) return
      const figures = lanes[lane]!
      context.strokeStyle = inks[log % 2]!
      context.lineWidth = 1.4
      context.beginPath()
      let joined = false
      for (let column = 0; column * 2 < figures.length; column++) {
        const low = figures[column * 2]!
        const high = figures[column * 2 + 1]!
        if (Number.isNaN(low)) continue
        if (joined) context.lineTo(column + 0.5, y(high))
        else context.moveTo(column + 0.5, y(high))
        context.lineTo(column + 0.5, y(low) + (low === high ? 0.01 : 0))
        joined = true
      }
      context.stroke()
    })
  })
  context.fillStyle = colour('soft')
  const steps = Math.max(1, Math.floor(w / 140))
  for (let step = 0; step <= steps; step++) {
    const second = drawn.from + ((drawn.to - drawn.from) * step) / steps
    context.textAlign = step === 0 ? 'left' : step === steps ? 'right' : 'center'
    context.fillText(secondText(Math.max(0, second)), (w * step) / steps, h - 6)
  }
  if (cursor.value !== null) {
    const x = ((cursor.value - drawn.from) / (drawn.to - drawn.from)) * w
    context.strokeStyle = colour('brass')
    context.lineWidth = 1
    context.beginPath()
    context.moveTo(x, 0)
    context.lineTo(x, h - 20)
    context.stroke()
  }
}

/** Room above and below a channel's line within its lane. */
const [above, below] = [12, 10]
let image: ImageData | null = null
/** The channels whose figures stand closer than the columns, pixel by pixel; whatever was drawn before is gone. */
function paint(
  context: CanvasRenderingContext2D,
  scale: number,
  inks: readonly string[],
  dense: readonly boolean[][],
): void {
  const { width: w, height: h } = context.canvas
  if (image?.width !== w || image.height !== h) image = context.createImageData(w, h)
  const pixels = new Uint32Array(image.data.buffer)
  pixels.fill(0)
  drawn!.lanes.forEach((lanes, log) => {
    const ink = pixelOf(context, inks[log % 2]!)
    lanes.forEach((extremes, lane) => {
      const { min, max } = channels[lane]!
      if (!dense[log]![lane] || min === null || max === null) return
      const top = Math.round((lane * laneHeight + above) * scale)
      const end = Math.round(((lane + 1) * laneHeight - below) * scale)
      drawTrace({ pixels, width: w }, { top, end, min, max }, extremes, ink, Math.round(1.4 * scale))
    })
  })
  context.putImageData(image, 0, 0)
}

/** A colour as the four bytes of a pixel in memory: red first, solid. */
function pixelOf(context: CanvasRenderingContext2D, ink: string): number {
  context.fillStyle = ink
  const [red = 0, green = 0, blue = 0] = (String(context.fillStyle).match(/[0-9a-f]{2}/gi) ?? []).map(
    (pair) => parseInt(pair, 16),
  )
  return new Uint32Array(Uint8Array.of(red, green, blue, 255).buffer)[0]!
}

const secondAt = (clientX: number) => {
  const { left: x, width: w } = canvas.value!.getBoundingClientRect()
  return view.from + ((clientX - x) / w) * (view.to - view.from)
}
const show = (next: TimeWindow): void => void Object.assign(view, next)
const zoom = (factor: number, around?: number) => show(zoomed(view, factor, seconds, around))
const pan = (share: number) => show(panned(view, share, seconds))
const whole = () => show(within({ from: 0, to: seconds }, seconds))

let held: { x: number; from: number; to: number } | null = null
function press(event: PointerEvent): void {
  held = { x: event.clientX, from: view.from, to: view.to }
  canvas.value!.setPointerCapture(event.pointerId)
}
function move(event: PointerEvent): void {
  if (held && Math.abs(event.clientX - held.x) > 3) {
    show(panned(held, (held.x - event.clientX) / canvas.value!.clientWidth, seconds))
  } else cursor.value = Math.min(seconds, Math.max(0, secondAt(event.clientX)))
}
function wheel(event: WheelEvent): void {
  if (!event.ctrlKey && !event.shiftKey && Math.abs(event.deltaX) < Math.abs(event.deltaY))
    return zoom(event.deltaY > 0 ? 1.25 : 0.8, secondAt(event.clientX))
  pan((event.deltaX || event.deltaY) / 1000)
}
function key(event: KeyboardEvent): void {
  const step = (view.to - view.from) / 100
  const acts: Record<string, () => void> = {
    ArrowLeft: () =>
      event.shiftKey ? pan(-0.2) : (cursor.value = Math.max(0, (cursor.value ?? view.from) - step)),
    ArrowRight: () =>
      event.shiftKey ? pan(0.2) : (cursor.value = Math.min(seconds, (cursor.value ?? view.from) + step)),
    '+': () => zoom(0.7, cursor.value ?? undefined),
    '-': () => zoom(1.4, cursor.value ?? undefined),
    Home: whole,
  }
  const act = acts[event.key]
  if (!act) return
  event.preventDefault()
  act()
}
const rangeText = ({ min, max }: { min: number | null; max: number | null }) =>
  min === null ? 'no figures' : `${figureText(min)} to ${figureText(max)}`
</script>

<template>
  <div>
    <div class="flex mb-2 gap-2.5 flex-wrap items-center">
      <NButton aria-label="Closer" @click="zoom(0.6, cursor ?? undefined)">Zoom in</NButton>
      <NButton aria-label="Wider" @click="zoom(1.7, cursor ?? undefined)">Zoom out</NButton>
      <NButton @click="whole">Whole log</NButton>
      <span class="small soft">{{ secondText(view.from) }} to {{ secondText(view.to) }}</span>
    </div>
    <div class="grid grid-cols-[168px_minmax(0,1fr)] phone:grid-cols-[92px_minmax(0,1fr)]">
      <ul class="plain phone:small">
        <li
          v-for="channel in channels"
          :key="channel.name"
          class="grid pr-2.5 content-center overflow-hidden"
          :style="{ height: `${laneHeight}px` }"
        >
          <b>{{ channel.name }}</b>
          <small class="small soft">{{ rangeText(channel) }} {{ channel.unit }}</small>
        </li>
      </ul>
      <div ref="box" class="min-w-0 overflow-hidden">
        <canvas
          ref="canvas"
          class="block"
          tabindex="0"
          role="img"
          :aria-label="`${channels.length} channels over time. Arrow keys move the cursor, with Shift the view; plus and minus zoom; Home shows the whole log.`"
          :style="{ width: `${columns}px`, height: `${height}px` }"
          @pointerdown="press"
          @pointermove="move"
          @pointerup="held = null"
          @pointercancel="held = null"
          @wheel.prevent="wheel"
          @keydown="key"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
canvas {
  cursor: crosshair;
  touch-action: pan-y;
}
</style>
