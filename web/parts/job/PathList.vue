<script setup lang="ts">
import type { Fit, Hop } from '@bench-wake/core/fit'
import type { FamilyDocument } from '@bench-wake/core/family'
import { durationText } from '@bench-wake/core/kernel'
import { computed } from 'vue'

/** The way from what is on the unit to what is wanted, hop by hop. */
const { fit, family, stays } = defineProps<{
  fit: Fit
  family: FamilyDocument | undefined
  /** What is left, entry by entry, hands included, ms: the same sum that the plan shows. */
  stays: readonly { hops: readonly Hop[]; totalMs: number }[]
}>()
/** Before anything is planned each write stands alone, with the time of its link. */
const shown = computed(() =>
  stays.length > 0
    ? stays
    : fit.path.map((hop): (typeof stays)[number] => ({ hops: [hop], totalMs: hop.predictedMs })),
)
const total = computed(() => shown.value.reduce((sum, { totalMs }) => sum + totalMs, 0))
const writes = computed(() => shown.value.reduce((sum, { hops }) => sum + hops.length, 0))
const counted = (count: number, one: string, more: string) => `${count} ${count === 1 ? one : more}`

const nameOf = (hop: Hop) =>
  family?.components.find(({ id }) => id === hop.componentId)?.name ?? hop.componentId
const widest = computed(() => Math.max(1, ...shown.value.map(({ totalMs }) => totalMs)))
</script>

<template>
  <section class="way" aria-label="The way">
    <h3>
      The way: {{ counted(writes, 'write', 'writes')
      }}{{ shown.length < writes ? ` with ${counted(shown.length, 'entry', 'entries')}` : '' }}, about
      {{ durationText(total) }}
    </h3>
    <ol>
      <template v-for="({ hops, totalMs }, at) in shown" :key="at">
        <li v-for="(hop, index) in hops" :key="hop.imageId" :class="{ same: index > 0 }">
          <span>{{ nameOf(hop) }}</span>
          <span class="mono">{{ hop.from ?? 'not known' }} → {{ hop.to ?? 'no version' }}</span>
          <span class="mono soft small">{{ hop.imageName }}</span>
          <template v-if="index === 0">
            <span class="bar" aria-hidden="true"
              ><i :style="{ width: `${(totalMs / widest) * 100}%` }"
            /></span>
            <span class="time">{{ durationText(totalMs) }}</span>
          </template>
          <span v-else class="soft small together">in the same entry</span>
          <span v-if="hop.noWayBack" class="gate">no way back from here</span>
        </li>
      </template>
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
.same {
  padding-top: 0;
}
.together {
  grid-column: span 2;
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
