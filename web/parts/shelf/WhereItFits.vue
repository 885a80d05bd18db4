<script setup lang="ts">
import type { ShelfImage, UnitFit } from '@bench-wake/server'
import { computed, onMounted, shallowRef } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { written } from '../written'

/** Onto which of the units known here an image may go, said as soon as it has come. */
const { image } = defineProps<{ image: ShelfImage }>()
const fits = shallowRef<UnitFit[] | null>(null)
const { problem, ask } = useAsked()
onMounted(() =>
  ask(async () => {
    fits.value = await got<UnitFit[]>(api.fit.image[':id'].$get({ param: { id: image.id } }))
  }),
)
const maxShown = 6
const good = computed(() => (fits.value ?? []).filter(({ verdict }) => verdict !== 'stop'))
const others = computed(() => (fits.value ?? []).length - good.value.length)
const more = computed(() => Math.max(0, good.value.length - maxShown))
</script>

<template>
  <p v-if="!fits && !problem" class="small soft">Judging where {{ image.name }} fits…</p>
  <p v-else-if="fits?.length === 0" class="small soft">No unit of its kind is known here.</p>
  <div v-else-if="fits">
    <p class="small soft">
      {{ image.name }}:
      <template v-if="good.length === 0"
        >it goes onto none of the {{ others }} units of its kind here.</template
      >
      <template v-else
        >{{ good.length }} {{ good.length === 1 ? 'unit' : 'units' }} of its kind could take it{{
          others ? `, ${others} not` : ''
        }}.</template
      >
    </p>
    <ul class="mt-1 mb-2 mx-0 p-0 list-none">
      <li
        v-for="unit in good.slice(0, maxShown)"
        :key="unit.unitId"
        class="flex py-1 gap-y-1 gap-x-2.5 flex-wrap items-center"
        :data-verdict="unit.verdict"
      >
        <VerdictMark :verdict="unit.verdict" quiet />
        <RouterLink :to="{ name: 'unit', params: { id: unit.unitId } }">{{ unit.name }}</RouterLink>
        <small class="soft">{{ unit.place }}. {{ written(unit.says) }}</small>
      </li>
    </ul>
    <p v-if="more" class="small soft">And {{ more }} more.</p>
  </div>
  <ProblemNote v-if="problem" :problem="problem" />
</template>
