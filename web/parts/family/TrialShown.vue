<script setup lang="ts">
import { bytesOfHex } from '@bench-wake/core/kernel'
import { heardText, stepText } from '@bench-wake/core/link'
import type { TrialAnswer } from '@bench-wake/server'
import ProblemNote from '../ProblemNote.vue'
import VerdictMark from '../VerdictMark.vue'
import { durationText, fixed, written } from '../written'

/** What came of one operation that was tried: every step with what was sent and heard, and what it gave. */
const { trial } = defineProps<{ trial: TrialAnswer }>()
const shownHex = (hex: string) => heardText(bytesOfHex(hex), 96)
</script>

<template>
  <div class="trial w-full min-w-0" aria-live="polite">
    <p class="outcome text-lead">
      <VerdictMark :verdict="trial.problem ? 'stop' : 'go'" quiet />
      {{ trial.problem ? 'It did not come to its end' : 'It works' }}, {{ durationText(trial.tookMs) }}.
    </p>
    <ProblemNote
      v-if="trial.problem"
      :problem="{ ...trial.problem, type: '', status: 0, detail: '', title: trial.problem.says }"
    />
    <ol class="my-1.5 mx-0 p-0 list-none">
      <li
        v-for="(event, index) in trial.events"
        :key="index"
        class="grid py-0.75 gap-2.5 grid-cols-[76px_minmax(0,1fr)_minmax(0,1.2fr)] line-b wrap-anywhere phone:gap-0 phone:grid-cols-1"
      >
        <span class="mono soft">{{ fixed(event.ms / 1000, 3) }} s</span>
        <span>{{ stepText(event.at) }}: {{ written(event.says) }}</span>
        <span v-if="event.sent" class="mono">{{ shownHex(event.sent) }}</span>
        <span v-else-if="event.heard" class="mono">{{ shownHex(event.heard) }}</span>
      </li>
    </ol>
    <template v-if="trial.lines.length">
      <p class="small soft">What it gave</p>
      <pre class="mono m-0 whitespace-pre-wrap wrap-anywhere">{{ trial.lines.join('\n') }}</pre>
    </template>
    <template v-if="trial.bytes">
      <p class="small soft">The first bytes</p>
      <pre class="mono m-0 whitespace-pre-wrap wrap-anywhere">{{
        trial.bytes.replace(/(..)/g, '$1 ').replace(/((?:.. ){16})/g, '$1\n')
      }}</pre>
    </template>
  </div>
</template>
