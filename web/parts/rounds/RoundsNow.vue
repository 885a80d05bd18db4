<script setup lang="ts">
import type { ListedCase } from '@bench-wake/server'
import { computed, onMounted, shallowRef } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { nextText, waitedText } from './words'

/** Open cases with their next step: all of them, those of a unit, or the one that a job writes for. */
const {
  unitId = null,
  jobId = null,
  begin = false,
} = defineProps<{ unitId?: string | null; jobId?: string | null; begin?: boolean }>()
const cases = shallowRef<ListedCase[]>([])
const { problem, ask } = useAsked()
onMounted(() => ask(async () => (cases.value = await got<ListedCase[]>(api.cases.$get()))))
const shown = computed(() =>
  cases.value.filter(
    ({ closed, unit, rounds }) =>
      (closed === null || jobId !== null) &&
      (unitId === null || unit.id === unitId) &&
      (jobId === null || rounds.some((round) => round.jobId === jobId)),
  ),
)
const roundOf = (each: ListedCase) => each.rounds.find((round) => round.jobId === jobId)?.number
const waiting = ({ next }: ListedCase) =>
  next.does === 'wait' ? ` Since ${waitedText(Date.now() - next.sinceMs)}.` : ''
</script>

<template>
  <ProblemNote v-if="problem" :problem="problem" />
  <p v-for="each in shown" :key="each.id" class="py-1.5">
    <template v-if="jobId !== null">Round {{ roundOf(each) }} of </template
    ><RouterLink :to="{ name: 'case', params: { id: each.id } }">{{ each.title }}</RouterLink
    ><template v-if="jobId === null"
      >: {{ nextText(each.next, (kind) => each.kinds[kind] ?? kind) }}{{ waiting(each) }}</template
    >
  </p>
  <p v-if="begin && shown.length === 0">
    <RouterLink :to="{ name: 'rounds', query: { unit: unitId } }">Begin rounds with a calibrator</RouterLink>
  </p>
</template>
