<script setup lang="ts">
import { clockText } from '@bench-wake/core/kernel'
import type { PlanTime, TimedStep } from '@bench-wake/core/run'
import { computed } from 'vue'
import { durationText, written } from '../written'

/** The run step by step, each with its range; what is hands-off, and when one may look away. */
const { steps, time } = defineProps<{
  steps: readonly TimedStep[]
  time: PlanTime
  /** Behind the heading; no heading where it is absent. */
  of?: string
}>()
const widest = computed(() => Math.max(...steps.map(({ maxMs }) => maxMs), 1))
const share = (ms: number) => `${(ms / widest.value) * 100}%`
const learned = computed(() =>
  time.learnedFrom
    ? `Times are the median of ${time.learnedFrom} proved ${time.learnedFrom === 1 ? 'run' : 'runs'} of this family over this link; what was only part of a step, or far from all others, is left out.`
    : 'Times are the link’s own arithmetic: no run of this family over this link is proved yet.',
)
</script>

<template>
  <section class="pt-4.5 line-t" aria-label="The plan">
    <h2 v-if="of !== undefined">The plan{{ of }}: {{ durationText(time.totalMs) }}</h2>
    <p class="small soft">
      Between {{ durationText(time.minMs) }} and {{ durationText(time.maxMs) }}.
      <b data-figure="person">{{ durationText(time.personMs) }} of your hands</b>,
      <b data-figure="alone">{{ durationText(time.aloneMs) }} alone</b
      ><template v-if="time.handsOffMs > 0"
        >, of that {{ durationText(time.handsOffMs) }} hands off: then you may look away</template
      >. {{ learned }}
    </p>
    <ol class="mt-2 mb-0 mx-0 p-0 list-none">
      <li
        v-for="step in steps"
        :key="step.kind"
        class="grid py-1.5 gap-3 grid-cols-[minmax(0,1.5fr)_1fr_52px_100px_72px] items-center phone:grid-cols-[1fr_56px]"
      >
        <span>{{ written(step.says) }}</span>
        <span class="bar flex gap-0.25 relative h-4 phone:hidden" aria-hidden="true">
          <i class="h-2.5 bg-hull min-w-0.25" :style="{ width: share(step.likelyMs - step.personMs) }" />
          <i
            class="person h-2.5 bg-transparent min-w-0.25 line-a-edge"
            :style="{ width: share(step.personMs) }"
          />
          <em
            class="absolute h-1 bottom-0"
            :style="{ left: share(step.minMs), width: share(step.maxMs - step.minMs) }"
          />
        </span>
        <span class="text-right">{{ clockText(step.likelyMs) }}</span>
        <span class="small soft phone:hidden">{{
          step.maxMs - step.minMs > 500 ? `${clockText(step.minMs)} to ${clockText(step.maxMs)}` : ''
        }}</span>
        <span class="small soft phone:hidden">{{
          step.handsOff ? 'hands off' : step.personMs ? 'needs you' : ''
        }}</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.bar .person[style*=' 0%'] {
  display: none;
}
/* The range, as a whisker below the bar. */
.bar em {
  border: 1px solid var(--soft);
  border-top: 0;
}
</style>
