<script setup lang="ts">
import { clockText, durationText } from '@bench-wake/core/kernel'
import type { PlanTime, TimedStep } from '@bench-wake/core/run'
import { computed } from 'vue'

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
  <section class="plan" aria-label="The plan">
    <h2 v-if="of !== undefined">The plan{{ of }}: {{ durationText(time.totalMs) }}</h2>
    <p class="small soft">
      Between {{ durationText(time.minMs) }} and {{ durationText(time.maxMs) }}.
      <b data-figure="person">{{ durationText(time.personMs) }} of your hands</b>,
      <b data-figure="alone">{{ durationText(time.aloneMs) }} alone</b
      ><template v-if="time.handsOffMs > 0"
        >, of that {{ durationText(time.handsOffMs) }} hands off: then you may look away</template
      >. {{ learned }}
    </p>
    <ol>
      <li v-for="step in steps" :key="step.kind">
        <span>{{ step.says }}</span>
        <span class="bar" aria-hidden="true">
          <i :style="{ width: share(step.likelyMs - step.personMs) }" />
          <i class="person" :style="{ width: share(step.personMs) }" />
          <em :style="{ left: share(step.minMs), width: share(step.maxMs - step.minMs) }" />
        </span>
        <span class="time">{{ clockText(step.likelyMs) }}</span>
        <span class="small soft">{{
          step.maxMs - step.minMs > 500 ? `${clockText(step.minMs)} to ${clockText(step.maxMs)}` : ''
        }}</span>
        <span class="small soft">{{ step.handsOff ? 'hands off' : step.personMs ? 'needs you' : '' }}</span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.plan {
  border-top: 1px solid var(--hair);
  padding-top: 18px;
}
ol {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) 1fr 52px 100px 72px;
  gap: 12px;
  align-items: center;
  padding: 6px 0;
}
.bar {
  position: relative;
  display: flex;
  gap: 1px;
  height: 16px;
}
.bar i {
  height: 10px;
  background: var(--hull);
  min-width: 1px;
}
.bar .person {
  background: none;
  border: 1px solid var(--edge);
}
.bar .person[style*=' 0%'] {
  display: none;
}
/* The range, as a whisker below the bar. */
.bar em {
  position: absolute;
  bottom: 0;
  height: 4px;
  border: 1px solid var(--soft);
  border-top: 0;
}
.time {
  text-align: right;
}
@media (max-width: 700px) {
  li {
    grid-template-columns: 1fr 56px;
  }
  .bar,
  li .small {
    display: none;
  }
}
</style>
