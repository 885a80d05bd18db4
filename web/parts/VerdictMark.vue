<script setup lang="ts">
import type { Verdict } from '@bench-wake/core/kernel'

/** Shape, word and colour, all three: disc, bar, notched square, barred ring, dashed outline. */
const {
  verdict,
  size = 14,
  quiet = false,
} = defineProps<{ verdict: Verdict | 'open'; size?: number; quiet?: boolean }>()

const words = { go: 'Go', note: 'Note', hold: 'Hold', stop: 'Stop', unknown: 'Not known', open: 'Now' }
</script>

<template>
  <svg
    class="verdict flex-none"
    :width="size"
    :height="size"
    viewBox="0 0 14 14"
    :role="quiet ? undefined : 'img'"
    :aria-hidden="quiet || undefined"
    :aria-label="quiet ? undefined : words[verdict]"
  >
    <circle v-if="verdict === 'go'" cx="7" cy="7" r="6" fill="var(--go)" />
    <rect v-else-if="verdict === 'note'" x="1" y="4.5" width="12" height="5" fill="var(--note)" />
    <path v-else-if="verdict === 'hold'" d="M1 1h4v3.4h4V1h4v12H1z" fill="var(--hold)" />
    <g v-else-if="verdict === 'stop'" fill="none" stroke="var(--stop)" stroke-width="2.4">
      <circle cx="7" cy="7" r="5.2" />
      <path d="M3.4 10.6 10.6 3.4" />
    </g>
    <path v-else-if="verdict === 'open'" d="M7 .4 13.6 7 7 13.6.4 7z" fill="var(--brass)" />
    <circle
      v-else
      cx="7"
      cy="7"
      r="5.5"
      fill="none"
      stroke="var(--soft)"
      stroke-width="1.4"
      stroke-dasharray="2.4 2.4"
    />
  </svg>
</template>

<style scoped>
.verdict {
  vertical-align: -1px;
}
</style>
