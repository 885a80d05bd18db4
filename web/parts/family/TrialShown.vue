<script setup lang="ts">
import { bytesOfHex, durationText } from '@bench-wake/core/kernel'
import { heardText, stepText } from '@bench-wake/core/link'
import type { TrialAnswer } from '@bench-wake/server'
import ProblemNote from '../ProblemNote.vue'
import VerdictMark from '../VerdictMark.vue'

/** What came of one operation that was tried: every step with what was sent and heard, and what it gave. */
const { trial } = defineProps<{ trial: TrialAnswer }>()
const shownHex = (hex: string) => heardText(bytesOfHex(hex), 96)
</script>

<template>
  <div class="trial" aria-live="polite">
    <p class="outcome">
      <VerdictMark :verdict="trial.problem ? 'stop' : 'go'" quiet />
      {{ trial.problem ? 'It did not come to its end' : 'It works' }}, {{ durationText(trial.tookMs) }}.
    </p>
    <ProblemNote
      v-if="trial.problem"
      :problem="{ ...trial.problem, type: '', status: 0, detail: '', title: trial.problem.says }"
    />
    <ol>
      <li v-for="(event, index) in trial.events" :key="index">
        <span class="mono soft">{{ (event.ms / 1000).toFixed(3) }} s</span>
        <span>{{ stepText(event.at) }}: {{ event.says }}</span>
        <span v-if="event.sent" class="mono">{{ shownHex(event.sent) }}</span>
        <span v-else-if="event.heard" class="mono">{{ shownHex(event.heard) }}</span>
      </li>
    </ol>
    <template v-if="trial.lines.length">
      <p class="small soft">What it gave</p>
      <pre class="mono">{{ trial.lines.join('\n') }}</pre>
    </template>
    <template v-if="trial.bytes">
      <p class="small soft">The first bytes</p>
      <pre class="mono">{{ trial.bytes.replace(/(..)/g, '$1 ').replace(/((?:.. ){16})/g, '$1\n') }}</pre>
    </template>
  </div>
</template>

<style scoped>
.trial {
  width: 100%;
  min-width: 0;
}
.outcome {
  font-size: 18px;
}
.trial ol {
  list-style: none;
  margin: 6px 0;
  padding: 0;
}
.trial li {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 10px;
  padding: 3px 0;
  border-bottom: 1px solid var(--hair);
  overflow-wrap: anywhere;
}
pre {
  margin: 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
@media (max-width: 700px) {
  .trial li {
    grid-template-columns: minmax(0, 1fr);
    gap: 0;
  }
}
</style>
