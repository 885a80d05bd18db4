<script setup lang="ts">
import type { SumPicture } from '@bench-wake/core/ready'
import { computed } from 'vue'
import { fixed } from './written'

/** What a calculator's answer looks like: amounts, a scale, a course, a frame of bits, or a bus. */
const { picture, label } = defineProps<{ picture: SumPicture; label: string }>()
const width = 620
const left = 150
const span = width - left - 90

const bars = computed(() => {
  if (picture.kind !== 'bars') return null
  const totals = picture.rows.map(({ parts }) =>
    parts.reduce((sum, { value }) => sum + Math.max(0, value), 0),
  )
  const all = [...totals, picture.limit?.value ?? 0]
  const most = Math.max(...all, 1e-9)
  // Amounts that lie close together are told apart only from a floor of their own; it is then marked as cut.
  const least = Math.min(...all)
  const cut = picture.rows.length > 1 && least > most * 0.6 ? least - (most - least) * 0.6 : 0
  const at = (value: number) => (Math.max(0, value - cut) / (most - cut || 1)) * span
  return {
    cut: cut > 0,
    height: picture.rows.length * 34 + 48,
    limit: picture.limit && { x: left + at(picture.limit.value), ...picture.limit },
    rows: picture.rows.map(({ label: name, parts, chosen }, index) => {
      let from = 0
      return {
        name,
        chosen,
        y: index * 34 + 26,
        total: totals[index]!,
        over:
          picture.limit !== undefined && picture.rows.length === 1 && totals[index]! > picture.limit.value,
        parts: parts.map(({ label: part, value }) => {
          const x = at(from)
          from += Math.max(0, value)
          return { part, x: left + x, width: Math.max(0, at(from) - x) }
        }),
      }
    }),
  }
})
const scale = computed(() => {
  if (picture.kind !== 'scale') return null
  const values = [
    ...picture.marks.map(({ value }) => value),
    ...(picture.window ? [picture.window.from, picture.window.to] : []),
  ]
  const [least, most] = [Math.min(...values), Math.max(...values)]
  const room = (most - least || 1) * 0.15
  const at = (value: number) => 40 + ((value - least + room) / (most - least + 2 * room)) * (width - 80)
  return {
    window: picture.window && {
      x: at(picture.window.from),
      width: at(picture.window.to) - at(picture.window.from),
      ...picture.window,
    },
    marks: picture.marks.map((mark, index) => ({ ...mark, x: at(mark.value), up: index % 2 === 0 })),
  }
})
const curve = computed(() => {
  if (picture.kind !== 'curve') return null
  const xs = picture.points.map(({ x }) => x)
  const ys = [...picture.points.map(({ y }) => y), picture.limit.value]
  const [x1, y0, y1] = [Math.max(...xs, 1e-9), Math.min(...ys), Math.max(...ys)]
  const room = (y1 - y0 || 0.1) * 0.12
  const at = (x: number) => 60 + (x / x1) * (width - 80)
  const up = (y: number) => 150 - ((y - y0 + room) / (y1 - y0 + 2 * room)) * 130
  return {
    path: picture.points
      .map(
        ({ x, y }, index) =>
          `${index ? 'L' : 'M'}${Math.round(at(x) * 10) / 10} ${Math.round(up(y) * 10) / 10}`,
      )
      .join(''),
    limitY: up(picture.limit.value),
    ends: [picture.points[0], picture.points[picture.points.length - 1]].map((point, index) => ({
      x: at(point!.x),
      y: up(point!.y),
      says: fixed(point!.y, 2),
      last: index === 1,
    })),
    last: x1,
  }
})
const bits = computed(() => {
  if (picture.kind !== 'bits') return null
  const cell = (width - 40) / picture.bits
  return {
    cells: Array.from({ length: picture.bits }, (_, bit) => ({
      x: 20 + bit * cell,
      width: cell,
      name: bit === 0 ? 'start' : bit === picture.bits - 1 ? 'stop' : String(bit - 1),
    })),
    samples: picture.samples.map((at, bit) => ({
      x: 20 + at * cell,
      // The middle three of sixteen looks have to fall into the bit, as in core/ready/sums/baud.ts.
      inside: at - 1 / 16 > bit && at + 2 / 16 < bit + 1,
    })),
  }
})
const digits = (value: number) =>
  Math.abs(value) >= 100 ? fixed(value, 0) : fixed(value, 2).replace(/[.,]?0+$/, '')
</script>

<template>
  <figure class="mt-0 mb-4 mx-0 max-w-175">
    <svg
      v-if="bars && picture.kind === 'bars'"
      class="block w-full"
      :viewBox="`0 0 ${width} ${bars.height}`"
      role="img"
      :aria-label="label"
    >
      <g v-for="row in bars.rows" :key="row.name">
        <text x="0" :y="row.y + 15" :class="{ strong: row.chosen }">{{ row.name }}</text>
        <g v-for="(part, index) in row.parts" :key="index">
          <rect
            :x="part.x"
            :y="row.y"
            :width="part.width"
            height="20"
            :class="['bar', `part-${index % 3}`, { over: row.over, chosen: row.chosen }]"
          />
          <text v-if="part.part && part.width > 44" class="in" :x="part.x + 6" :y="row.y + 14">
            {{ part.part }}
          </text>
        </g>
        <text :x="width" :y="row.y + 15" text-anchor="end">{{ digits(row.total) }} {{ picture.unit }}</text>
      </g>
      <g v-if="bars.limit">
        <path class="limit" :d="`M${bars.limit.x} 18V${bars.height - 18}`" />
        <text class="limit-text" :x="bars.limit.x" y="13" text-anchor="middle">
          {{ bars.limit.label }} {{ digits(bars.limit.value) }}
        </text>
      </g>
      <text v-if="bars.cut" class="fine" :x="left" :y="bars.height - 5">the bars do not begin at zero</text>
    </svg>
    <svg
      v-else-if="scale && picture.kind === 'scale'"
      class="block w-full"
      :viewBox="`0 0 ${width} 96`"
      role="img"
      :aria-label="label"
    >
      <rect
        v-if="scale.window"
        class="window fill-water"
        :x="scale.window.x"
        y="36"
        :width="scale.window.width"
        height="24"
      />
      <text v-if="scale.window" class="fine" :x="scale.window.x" y="92">{{ scale.window.from }}</text>
      <text
        v-if="scale.window"
        class="fine"
        :x="scale.window.x + scale.window.width"
        y="92"
        text-anchor="end"
      >
        {{ scale.window.to }} {{ picture.unit }}
      </text>
      <path class="stroke-edge fill-none" :d="`M20 48H${width - 20}`" />
      <g v-for="mark in scale.marks" :key="mark.label">
        <path :class="mark.limit ? 'limit' : 'mark'" :d="`M${mark.x} 30V66`" />
        <text :x="mark.x" :y="mark.up ? 22 : 82" text-anchor="middle">
          {{ mark.label }} {{ digits(mark.value) }} {{ picture.unit }}
        </text>
      </g>
    </svg>
    <svg
      v-else-if="curve && picture.kind === 'curve'"
      class="block w-full"
      :viewBox="`0 0 ${width} 178`"
      role="img"
      :aria-label="label"
    >
      <path class="stroke-edge fill-none" d="M60 10V152H600" />
      <path class="limit" :d="`M60 ${curve.limitY}H600`" />
      <text class="limit-text" x="64" :y="curve.limitY + 14">
        {{ picture.limit.label }} {{ digits(picture.limit.value) }} {{ picture.yUnit }}
      </text>
      <path class="course stroke-hull fill-none" :d="curve.path" />
      <text
        v-for="end in curve.ends"
        :key="end.x"
        :x="end.x - (end.last ? 4 : -6)"
        :y="end.y - 8"
        :text-anchor="end.last ? 'end' : 'start'"
      >
        {{ end.says }} {{ picture.yUnit }}
      </text>
      <text class="fine" x="60" y="172">0</text>
      <text class="fine" x="600" y="172" text-anchor="end">{{ digits(curve.last) }} {{ picture.xUnit }}</text>
    </svg>
    <svg v-else-if="bits" class="block w-full" :viewBox="`0 0 ${width} 84`" role="img" :aria-label="label">
      <g v-for="cell in bits.cells" :key="cell.x">
        <rect class="fill-sheet stroke-edge" :x="cell.x" y="12" :width="cell.width" height="34" />
        <text class="fine" :x="cell.x + cell.width / 2" y="64" text-anchor="middle">{{ cell.name }}</text>
      </g>
      <path
        v-for="sample in bits.samples"
        :key="sample.x"
        :class="sample.inside ? 'sample' : 'sample astray'"
        :d="`M${sample.x} 6V52`"
      />
      <text class="fine" x="20" y="80">bits as they are sent; the strokes are where the other end looks</text>
    </svg>
    <svg
      v-else-if="picture.kind === 'bus'"
      class="block w-full"
      :viewBox="`0 0 ${width} 100`"
      role="img"
      :aria-label="label"
    >
      <path class="stroke-edge fill-none" d="M60 36H560M60 64H560" />
      <template v-if="picture.terminators !== null">
        <g
          v-for="at in picture.terminators"
          :key="at"
          :transform="`translate(${[60, 560, 310, 200][at - 1]} 0)`"
        >
          <rect class="bar" :class="{ over: at > 2 }" x="-8" y="38" width="16" height="24" />
          <text class="fine" x="0" y="84" text-anchor="middle">120 ohm</text>
        </g>
        <g
          v-for="at in Math.max(0, 2 - picture.terminators)"
          :key="`m${at}`"
          :transform="`translate(${at === 1 && picture.terminators === 0 ? 60 : 560} 0)`"
        >
          <rect class="missing fill-none stroke-hold stroke-width-2" x="-8" y="38" width="16" height="24" />
          <text class="fine" x="0" y="84" text-anchor="middle">missing</text>
        </g>
      </template>
      <text v-else x="310" y="56" text-anchor="middle">no number of terminators</text>
    </svg>
  </figure>
</template>

<style scoped>
text {
  font-size: 13px;
  fill: var(--ink);
}
.strong {
  font-weight: 650;
}
.fine {
  fill: var(--soft);
}
.in {
  fill: var(--paper);
}
.bar {
  fill: var(--hull);
  opacity: 0.75;
}
.part-1 {
  opacity: 1;
}
.part-2 {
  opacity: 0.55;
}
.chosen {
  opacity: 1;
  fill: var(--brass);
}
.over {
  fill: var(--stop);
}
.limit {
  stroke: var(--stop);
  stroke-width: 2;
  fill: none;
}
.limit-text {
  fill: var(--stop);
}
.mark {
  stroke: var(--ink);
  stroke-width: 3;
}
.course {
  stroke-width: 2.5;
}
.sample {
  stroke: var(--go);
  stroke-width: 2.5;
}
.astray {
  stroke: var(--stop);
  stroke-width: 3.5;
}
.missing {
  stroke-dasharray: 4 3;
}
</style>
