<script setup lang="ts">
import type { windowBar } from '@bench-wake/core/entry'
import { fixed } from '../written'

/** The window of the act that is due, drawn as it runs. */
defineProps<{ bar: NonNullable<ReturnType<typeof windowBar>> }>()
</script>

<template>
  <div class="window my-4" :class="{ open: bar.open }">
    <svg
      class="block w-full h-10"
      viewBox="0 0 600 40"
      role="img"
      :aria-label="bar.open ? 'The window is open' : 'The window is not open yet'"
      preserveAspectRatio="none"
    >
      <rect x="0" y="8" width="600" height="24" class="fill-sheet stroke-edge" />
      <rect :x="600 * bar.opens" y="8" :width="600 * (1 - bar.opens)" height="24" class="zone fill-water" />
      <path :d="`M${600 * bar.at} 0V40`" class="stroke-ink stroke-width-3" />
    </svg>
    <p class="mono text-large">{{ bar.open ? 'now' : 'wait' }}, {{ fixed(bar.leftMs / 1000, 1) }} s</p>
  </div>
</template>

<style scoped>
.window.open .zone {
  fill: var(--brass);
}
</style>
