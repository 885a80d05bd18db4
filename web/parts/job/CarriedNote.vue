<script setup lang="ts">
import type { Family } from '@bench-wake/core/family'
import { carriedText, type Adapter, type BenchInputs } from '@bench-wake/core/ready'
import type { Carried } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, inject, onMounted, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useAsked } from '../useAsked'
import { benchDesk } from './bench-inputs'
import { dayText } from '../written'

/** What an earlier job said of cable and supply: shown with where it comes from, and taken over in one press. */
const { jobId, family, adapters } = defineProps<{ jobId: string; family: Family; adapters: Adapter[] }>()
const desk = inject(benchDesk)!
const carried = ref<Carried | null>(null)
const asked = useAsked()
const left = ref(false)
onMounted(() =>
  asked.ask(async () => {
    carried.value = await got<Carried | null>(api.jobs[':id'].carried.$get({ param: { id: jobId } }))
  }),
)
/** Parts of it that nobody has said anything of here. */
const open = computed<BenchInputs | null>(() => {
  const parts = Object.entries(carried.value?.bench ?? {}).filter(
    ([part]) => desk.say[part as keyof BenchInputs] === undefined,
  )
  return parts.length > 0 ? (Object.fromEntries(parts) as BenchInputs) : null
})
const words = computed(() => (open.value ? carriedText(open.value, family, adapters) : []))
const take = () => {
  const parts = open.value
  if (!parts) return
  Object.assign(desk.say, JSON.parse(JSON.stringify(parts)))
  desk.keep(...(Object.keys(parts) as (keyof BenchInputs)[]))
}
</script>

<template>
  <div
    v-if="carried && words.length && !left"
    class="carried mb-3.5 py-2.5 px-3.5 bar-brass bg-sheet"
    role="note"
  >
    <p>
      {{ carried.from.sameUnit ? 'As at the last job of this unit' : `As on ${carried.from.unitName}` }},
      {{ dayText(carried.from.day) }}: {{ words.join('; ') }}.
    </p>
    <p class="small soft">Volts, plugs and steps of power are looked at anew.</p>
    <NButton @click="take">It is the same again</NButton>
    <NButton quaternary @click="left = true">No, something else</NButton>
  </div>
</template>

<style scoped>
.carried .n-button {
  margin: 6px 10px 0 0;
}
</style>
