<script setup lang="ts">
import { bytesText, clockText, groupedNumber } from '@bench-wake/core/kernel'
import {
  bytesPerSecond,
  openStepLeft,
  progressShare,
  retryMarks,
  timeLeft,
  type RunState,
} from '@bench-wake/core/run'
import { computed } from 'vue'
import { durationText, rateText, timeText } from '../written'

/** How far the open step is: what the unit has acknowledged, the time left, the pace, and where blocks were sent again. */
const { run, now } = defineProps<{
  run: RunState
  /** ms of the run's own clock. */
  now: number
  /** Writes that come after this one, and what they take. */
  later: { count: number; ms: number } | undefined
}>()

const step = computed(() => (run.open === null ? undefined : run.steps[run.open]))
const progress = computed(() => run.progress)
const share = computed(() => progressShare(run))
const marks = computed(() => retryMarks(run))
const stepLeft = computed(() => (step.value ? openStepLeft(run, step.value, now) : 0))
const left = computed(() => timeLeft(run, now) ?? 0)
const doneAt = computed(() => timeText(Date.now() + left.value / (run.facts.speed || 1)))
const rate = computed(() => bytesPerSecond(run))
</script>

<template>
  <div v-if="progress">
    <svg
      class="block w-full h-11.5"
      viewBox="0 0 628 46"
      preserveAspectRatio="none"
      role="progressbar"
      :aria-valuenow="Math.floor(share * 100)"
      aria-valuemin="0"
      aria-valuemax="100"
      :aria-label="`${step?.kind}, percent acknowledged`"
    >
      <rect x=".5" y="10.5" width="627" height="25" fill="var(--sheet)" stroke="var(--edge)" />
      <rect x="0" y="10" :width="628 * share" height="26" fill="var(--brass)" />
      <path d="M157 10v26M314 10v26M471 10v26" stroke="var(--paper)" stroke-opacity=".6" />
      <path
        v-for="(mark, index) in marks"
        :key="index"
        :d="`M${628 * mark} 36v9`"
        stroke="var(--hold)"
        stroke-width="2"
      />
      <path :d="`M${Math.max(1, 628 * share)} 4v38`" stroke="var(--ink)" stroke-width="2" />
    </svg>
    <div class="grid mt-2.5 mb-6 gap-y-3 gap-x-7 fit-160">
      <div class="small soft">
        <b class="block text-title font-650 leading-[1.15] text-ink">{{ Math.floor(share * 100) }} %</b>
        <span v-if="progress.unit === 'bytes'"
          >{{ groupedNumber(progress.done) }} of {{ bytesText(progress.total) }}</span
        >
        <span v-else>{{ progress.done }} of {{ progress.total }} sectors</span>
      </div>
      <div class="small soft">
        <b class="block text-title font-650 leading-[1.15] text-ink">{{ clockText(stepLeft) }}</b>left of this
        step, {{ clockText(left) }} of this run, done at {{ doneAt
        }}<template v-if="later?.count"
          >; then {{ later.count }} more {{ later.count === 1 ? 'write' : 'writes' }},
          {{ durationText(later.ms) }} with your hands</template
        >
      </div>
      <div v-if="rate !== null && progress.unit === 'bytes'" class="small soft">
        <b class="block text-title font-650 leading-[1.15] text-ink">{{ rateText(rate) }}</b>acknowledged{{
          progress.retries ? `, ${progress.retries} sent again` : ''
        }}
      </div>
    </div>
  </div>
</template>
