<script setup lang="ts">
import type { windowBar } from '@bench-wake/core/entry'

/** The window of the act that is due, drawn as it runs. */
defineProps<{ bar: NonNullable<ReturnType<typeof windowBar>> }>()
</script>

<template>
  <div class="window" :class="{ open: bar.open }">
    <svg
      viewBox="0 0 600 40"
      role="img"
      :aria-label="bar.open ? 'The window is open' : 'The window is not open yet'"
      preserveAspectRatio="none"
    >
      <rect x="0" y="8" width="600" height="24" class="track" />
      <rect :x="600 * bar.opens" y="8" :width="600 * (1 - bar.opens)" height="24" class="zone" />
      <path :d="`M${600 * bar.at} 0V40`" class="hand" />
    </svg>
    <p class="mono">{{ bar.open ? 'now' : 'wait' }}, {{ (bar.leftMs / 1000).toFixed(1) }} s</p>
  </div>
</template>

<style scoped>
.window {
  margin: 16px 0;
}
.window svg {
  width: 100%;
  height: 40px;
  display: block;
}
.window p {
  font-size: 24px;
}
.track {
  fill: var(--sheet);
  stroke: var(--edge);
}
.zone {
  fill: var(--water);
}
.window.open .zone {
  fill: var(--brass);
}
.hand {
  stroke: var(--ink);
  stroke-width: 3;
}
</style>
