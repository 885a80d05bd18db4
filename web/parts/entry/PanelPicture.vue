<script setup lang="ts">
import type { Panel, Shown } from '@bench-wake/core/family'
import { inSentence } from '@bench-wake/core/kernel'
import { computed } from 'vue'

/** A unit's face drawn from its profile: keys, lamps, display, switches and jacks as simple shapes. */
const {
  panel,
  shows,
  held,
  due = null,
} = defineProps<{
  panel: Panel
  /** How a part shows now, with what a display reads. */
  shows: Readonly<Record<string, { shown: Shown; text?: string }>>
  held: readonly string[]
  /** The part that is due next. */
  due?: string | null
}>()
type Part = Panel['parts'][number]
const width = 520
const height = 280
const x = (percent: number) => 40 + (percent / 100) * (width - 80)
const y = (percent: number) => 34 + (percent / 100) * (height - 76)
/** Lamps lie under what is pressed: a ring around its button. */
const drawn = computed(() =>
  panel.parts.toSorted((a, b) => Number(b.kind === 'lamp') - Number(a.kind === 'lamp')),
)
/** Parts at the same place have one name, under the first of them. */
const atOnePlace = (part: Part) => drawn.value.filter((each) => each.x === part.x && each.y === part.y)
const isDueAt = (part: Part) => atOnePlace(part).some(({ id }) => id === due)
const nameOf = (part: Part) => {
  const all = atOnePlace(part)
  return all[0] === part
    ? all.map(({ name }, index) => (index === 0 ? name : inSentence(name))).join(' and ')
    : ''
}
const words: Record<Shown, string> = {
  dark: 'dark',
  steady: 'steady',
  blinking: 'blinking',
  text: '',
  quiet: 'quiet',
  chatter: 'chatters',
  tune: 'plays a tune',
}
const stateOf = (id: string, rests: Shown | undefined) => shows[id]?.shown ?? rests
const wordOf = (id: string, rests: Shown | undefined) => {
  const shown = stateOf(id, rests)
  return shows[id]?.text ?? (shown ? words[shown] : '')
}
const label = () =>
  `${panel.name}: ${panel.parts
    .map((part) => {
      const state = wordOf(part.id, part.rests)
      return `${part.name}${held.includes(part.id) ? ' held' : ''}${state ? ` ${state}` : ''}`
    })
    .join(', ')}`
</script>

<template>
  <svg
    class="panel block w-full max-w-140"
    :viewBox="`0 0 ${width} ${height}`"
    role="img"
    :aria-label="label()"
  >
    <rect x="8" y="8" :width="width - 16" :height="height - 16" rx="6" class="case fill-sheet stroke-edge" />
    <g
      v-for="part in drawn"
      :key="part.id"
      :transform="`translate(${x(part.x)} ${y(part.y)})`"
      :class="[
        part.kind,
        { held: held.includes(part.id), due: due === part.id },
        stateOf(part.id, part.rests),
      ]"
    >
      <circle v-if="due === part.id" r="38" class="fill-none stroke-brass stroke-width-3" />
      <rect
        v-if="part.kind === 'key'"
        x="-22"
        y="-16"
        width="44"
        height="32"
        rx="3"
        class="body fill-paper stroke-ink"
      />
      <circle v-else-if="part.kind === 'button'" r="17" class="body fill-paper stroke-ink" />
      <g v-else-if="part.kind === 'trim'">
        <circle r="18" class="body fill-paper stroke-ink" />
        <path :d="held.includes(part.id) ? 'M0 0 L-13 -11' : 'M0 0V-17'" class="hand stroke-ink fill-none" />
      </g>
      <g v-else-if="part.kind === 'switch'">
        <rect x="-13" y="-20" width="26" height="40" rx="3" class="body fill-paper stroke-ink" />
        <rect x="-9" y="-16" width="18" height="15" class="fill-hull" />
      </g>
      <g v-else-if="part.kind === 'jack'">
        <rect x="-18" y="-12" width="36" height="24" rx="2" class="body fill-paper stroke-ink" />
        <path d="M-10 0H10" class="hand stroke-ink fill-none" />
      </g>
      <g v-else-if="part.kind === 'connector'">
        <rect x="-34" y="-12" width="68" height="24" rx="2" class="body fill-paper stroke-ink" />
        <circle v-for="at in 5" :key="at" :cx="-34 + at * 11.3" r="2.5" class="fill-hull" />
      </g>
      <circle
        v-else-if="part.kind === 'lamp'"
        :r="atOnePlace(part).length > 1 ? 25 : 12"
        class="glass fill-water stroke-ink"
      />
      <g v-else-if="part.kind === 'display'">
        <rect x="-78" y="-26" width="156" height="52" rx="2" class="glass fill-water stroke-ink" />
        <text y="6" text-anchor="middle" class="reads small fill-ink">
          {{ shows[part.id]?.text ?? (stateOf(part.id, part.rests) === 'dark' ? '' : '· · ·') }}
        </text>
      </g>
      <g v-else>
        <path d="M-12 -6h8l9 -8v28l-9 -8h-8z" class="body fill-paper stroke-ink" />
        <path
          v-if="['chatter', 'tune', 'steady'].includes(stateOf(part.id, part.rests) ?? '')"
          d="M10 -8q8 8 0 16M15 -13q13 13 0 26"
          class="hand stroke-ink fill-none"
        />
      </g>
      <text class="name small fill-ink" :y="isDueAt(part) ? 54 : 44" text-anchor="middle">
        {{ nameOf(part) }}
      </text>
      <text
        v-if="!['key', 'button', 'trim', 'switch', 'jack', 'connector', 'display'].includes(part.kind)"
        class="small fill-soft"
        :y="isDueAt(part) ? 70 : 60"
        text-anchor="middle"
      >
        {{ wordOf(part.id, part.rests) }}
      </text>
      <text v-if="held.includes(part.id)" class="small fill-soft" y="-44" text-anchor="middle">held</text>
    </g>
  </svg>
</template>

<style scoped>
.case {
  stroke-width: 1.5;
}
.body {
  stroke-width: 1.5;
}
.held .body {
  fill: var(--brass);
}
.hand {
  stroke-width: 2.5;
}
.glass {
  stroke-width: 1.5;
}
.lamp.dark .glass {
  fill: none;
  stroke-dasharray: 3 3;
}
.lamp.steady .glass {
  fill: var(--brass);
}
.lamp.blinking .glass {
  fill: var(--brass);
  animation: blink 0.8s steps(2, jump-none) infinite;
}
@keyframes blink {
  to {
    fill: var(--water);
  }
}
@media (prefers-reduced-motion: reduce) {
  .lamp.blinking .glass {
    animation: none;
    stroke-dasharray: 6 3;
    stroke-width: 3;
  }
}
.reads {
  font: 650 18px var(--mono);
}
</style>
