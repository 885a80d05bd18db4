<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { addressText, bytesText } from '@bench-wake/core/kernel'
import { computed } from 'vue'

/** An image's ranges against the family's memory map, from the lowest address to the highest. */
const { segments, family, component } = defineProps<{
  segments: { address: number; length: number }[]
  family?: FamilyDocument | undefined
  component?: string | undefined
}>()

const regions = computed(() =>
  (family?.components.find(({ id }) => id === component)?.memory.regions ?? []).map((region) => ({
    ...region,
    address: Number(region.address),
    length: Number(region.length),
  })),
)
const span = computed(() => {
  const all = [...regions.value, ...segments]
  const from = Math.min(...all.map(({ address }) => address))
  const to = Math.max(...all.map(({ address, length }) => address + length))
  return { from, to: Math.max(from + 1, to) }
})
const x = (address: number) => ((address - span.value.from) / (span.value.to - span.value.from)) * 560
const wide = (length: number) => Math.max(2, (length / (span.value.to - span.value.from)) * 560)
</script>

<template>
  <svg
    viewBox="-1 0 562 64"
    width="100%"
    height="64"
    role="img"
    class="block max-w-150"
    :aria-label="
      segments.map((each) => `${bytesText(each.length)} from ${addressText(each.address)}`).join('; ')
    "
  >
    <g v-for="region in regions" :key="region.name">
      <rect
        :x="x(region.address)"
        y="16"
        :width="wide(region.length)"
        height="24"
        fill="none"
        stroke="var(--edge)"
        :stroke-dasharray="region.use === 'application' ? undefined : '3 3'"
      />
    </g>
    <rect
      v-for="segment in segments"
      :key="segment.address"
      :x="x(segment.address)"
      y="20"
      :width="wide(segment.length)"
      height="16"
      fill="var(--hull)"
    />
    <text
      v-for="(region, index) in regions"
      :key="region.name + 't'"
      :x="Math.min(x(region.address), 470)"
      :y="index % 2 ? 11 : 54"
      font-size="11"
      fill="var(--soft)"
    >
      {{ region.name }}
    </text>
  </svg>
</template>
