<script setup lang="ts">
import { computed } from 'vue'
import { fixed } from './written'

/** A level that matters, drawn as a hull mark: limit line, present level, predicted level at the last byte. */
const {
  now,
  floor,
  atEnd = null,
  top,
  unit = 'V',
  live = true,
  word = 'measured',
} = defineProps<{
  now: number
  floor: number
  atEnd?: number | null
  /** Top of the scale. */
  top: number
  unit?: string
  /** False for a level that was read once and is not followed. */
  live?: boolean
  /** How a level that is not followed came about. */
  word?: 'measured' | 'estimated'
}>()

const height = 190
const bottom = computed(() => floor - (top - floor) * 0.45)
const y = (value: number) => {
  const share = (value - bottom.value) / (top - bottom.value)
  return 8 + (1 - Math.min(1, Math.max(0, share))) * (height - 16)
}
/** Texts stand at least 17 apart, so that near levels can still be read. */
const texts = computed(() => {
  const rows = [
    { key: 'now', says: `${fixed(now, 2)} ${live ? 'now' : word}`, at: y(now) },
    ...(atEnd === null ? [] : [{ key: 'end', says: `${fixed(atEnd, 2)} at the last byte`, at: y(atEnd) }]),
    { key: 'floor', says: `${fixed(floor, 2)} floor`, at: y(floor) },
  ].sort((a, b) => a.at - b.at)
  for (let index = 1; index < rows.length; index++) {
    rows[index]!.at = Math.max(rows[index]!.at, rows[index - 1]!.at + 17)
  }
  return rows
})
const low = computed(() => now < floor || (atEnd !== null && atEnd < floor))
</script>

<template>
  <svg
    class="plimsoll block max-w-full"
    width="220"
    :height="height"
    :viewBox="`0 0 220 ${height}`"
    role="img"
    :aria-label="`${fixed(now, 2)} ${unit} ${live ? 'now' : word}, floor ${fixed(floor, 2)} ${unit}${atEnd === null ? '' : `, ${fixed(atEnd, 2)} ${unit} at the last byte`}`"
  >
    <path :d="`M40 4V${height - 4}`" stroke="var(--hair)" />
    <rect x="24" :y="y(now)" width="32" :height="height - 6 - y(now)" fill="var(--water)" />
    <path :d="`M10 ${y(now)}h60`" stroke="var(--ink)" stroke-width="3" />
    <path
      v-if="atEnd !== null"
      :d="`M24 ${y(atEnd)}h32`"
      :stroke="low ? 'var(--stop)' : 'var(--ink)'"
      stroke-width="2"
      stroke-dasharray="3 3"
    />
    <circle cx="40" :cy="y(floor)" r="13" fill="none" stroke="var(--stop)" stroke-width="2" />
    <path :d="`M10 ${y(floor)}h60`" stroke="var(--stop)" stroke-width="3" />
    <text
      v-for="row in texts"
      :key="row.key"
      x="80"
      :y="row.at + 5"
      :font-size="row.key === 'end' ? 13 : 15"
      :fill="row.key === 'floor' ? 'var(--stop)' : row.key === 'end' ? 'var(--soft)' : 'var(--ink)'"
    >
      {{ row.says }}
    </text>
  </svg>
</template>
