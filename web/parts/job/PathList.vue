<script setup lang="ts">
import type { Fit, Hop } from '@bench-wake/core/fit'
import type { FamilyDocument } from '@bench-wake/core/family'
import { durationText } from '@bench-wake/core/kernel'
import { computed } from 'vue'

/** The way from what is on the unit to what is wanted, hop by hop. */
const { fit, family, writeMs } = defineProps<{
  fit: Fit
  family: FamilyDocument | undefined
  /** Of each write that is left, hands included, ms: the same sum that the plan shows. */
  writeMs: readonly number[]
}>()
/** Where a write was proved already the way begins behind it; its times are those of what is left. */
const times = computed(() =>
  writeMs.length === fit.path.length ? writeMs : fit.path.map(({ predictedMs }) => predictedMs),
)
const total = computed(() => times.value.reduce((sum, ms) => sum + ms, 0))

const nameOf = (hop: Hop) =>
  family?.components.find(({ id }) => id === hop.componentId)?.name ?? hop.componentId
const widest = computed(() => Math.max(1, ...times.value))
</script>

<template>
  <section class="way" aria-label="The way">
    <h3>
      The way: {{ fit.path.length }} {{ fit.path.length === 1 ? 'write' : 'writes' }}, about
      {{ durationText(total) }}
    </h3>
    <ol>
      <li v-for="(hop, index) in fit.path" :key="hop.imageId + index">
        <span>{{ nameOf(hop) }}</span>
        <span class="mono">{{ hop.from ?? 'not known' }} → {{ hop.to ?? 'no version' }}</span>
        <span class="mono soft small">{{ hop.imageName }}</span>
        <span class="bar" aria-hidden="true"
          ><i :style="{ width: `${(times[index]! / widest) * 100}%` }"
        /></span>
        <span class="time">{{ durationText(times[index]!) }}</span>
        <span v-if="hop.noWayBack" class="gate">no way back from here</span>
      </li>
    </ol>
    <p v-if="fit.rollback?.length" class="small soft">
      Way back: {{ fit.rollback.map((hop) => `${nameOf(hop)} to ${hop.to}`).join(', then ') }}.
    </p>
  </section>
</template>

<style scoped>
.way {
  border-top: 1px solid var(--hair);
  margin-top: 14px;
  padding-top: 14px;
}
ol {
  list-style: none;
  margin: 6px 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(120px, 1fr) 150px minmax(90px, 1.2fr) 90px 80px;
  gap: 6px 12px;
  align-items: center;
  padding: 5px 0;
  overflow-wrap: anywhere;
}
.bar {
  height: 8px;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--hull);
}
.time {
  text-align: right;
}
.gate {
  grid-column: 1 / -1;
  color: var(--hold);
  font-weight: 600;
}
@media (max-width: 700px) {
  li {
    grid-template-columns: 1fr auto;
  }
  .bar {
    display: none;
  }
}
</style>
