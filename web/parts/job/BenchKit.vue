<script setup lang="ts">
import type { KitEntry } from '@bench-wake/core/ready'
import type { JobView } from '@bench-wake/server'
import { api, got } from '../../stores/api'
import KitTable from '../KitTable.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

/** What this job takes along; ticked here or on the list of the day, it is the same tick. */
const { view } = defineProps<{ view: JobView }>()
const emit = defineEmits<{ said: [] }>()
const { problem, askInTurn } = useAsked()
async function pack(item: KitEntry, packed: boolean): Promise<boolean> {
  await askInTurn(async () => {
    await got(api.kit[':day'].$put({ param: { day: view.job.day }, json: { item: item.id, packed } }))
    emit('said')
  })
  return problem.value === null
}
</script>

<template>
  <KitTable :items="view.kit" :pack="pack" />
  <p class="small">
    <RouterLink :to="{ name: 'kit', params: { day: view.job.day } }"
      >The list of the day, for print</RouterLink
    >
  </p>
  <ProblemNote v-if="problem" :problem="problem" />
</template>
