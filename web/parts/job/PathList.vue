<script setup lang="ts">
import type { Fit, Hop } from '@bench-wake/core/fit'
import type { FamilyDocument } from '@bench-wake/core/family'
import { computed } from 'vue'
import { durationText } from '../written'

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
  <section class="mt-3.5 pt-3.5 line-t" aria-label="The way">
    <h3>
      The way: {{ counted(writes, 'write', 'writes')
      }}{{ shown.length < writes ? ` with ${counted(shown.length, 'entry', 'entries')}` : '' }}, about
      {{ durationText(total) }}
    </h3>
    <ol class="my-1.5 mx-0 p-0 list-none">
      <template v-for="({ hops, totalMs }, at) in shown" :key="at">
        <li
          v-for="(hop, index) in hops"
          :key="hop.imageId"
          class="grid py-1.25 gap-y-1.5 gap-x-3 items-center wrap-anywhere grid-cols-[minmax(120px,1fr)_150px_minmax(90px,1.2fr)_90px_80px] phone:grid-cols-[1fr_auto]"
          :class="{ same: index > 0 }"
        >
          <span>{{ nameOf(hop) }}</span>
          <span class="mono">{{ hop.from ?? 'not known' }} → {{ hop.to ?? 'no version' }}</span>
          <span class="mono soft small">{{ hop.imageName }}</span>
          <template v-if="index === 0">
            <span class="h-2 phone:hidden" aria-hidden="true"
              ><i class="block h-full bg-hull" :style="{ width: `${(totalMs / widest) * 100}%` }"
            /></span>
            <span class="text-right">{{ durationText(totalMs) }}</span>
          </template>
          <span v-else class="soft small col-span-2 text-right">in the same entry</span>
          <span v-if="hop.noWayBack" class="col-span-full text-hold font-600">no way back from here</span>
        </li>
      </template>
    </ol>
    <p v-if="fit.rollback?.length" class="small soft">
      Way back: {{ fit.rollback.map((hop) => `${nameOf(hop)} to ${hop.to}`).join(', then ') }}.
    </p>
  </section>
</template>

<style scoped>
.same {
  padding-top: 0;
}
</style>
