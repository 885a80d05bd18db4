<script setup lang="ts">
import type { Gate, LaptopSay } from '@bench-wake/core/ready'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, got } from '../stores/api'
import { useLive } from '../stores/live'
import ProblemNote from './ProblemNote.vue'
import { useAsked } from './useAsked'
import VerdictMark from './VerdictMark.vue'
import { written } from './written'

/** A warning in the band while runs are under way that the laptop does not last for (PRACTICE D3). */
const live = useLive()
const { problem, ask } = useAsked()
const told = ref<{ say: LaptopSay | null; gate: Gate } | null>(null)
const lookEveryMs = 5000
async function look() {
  if (live.running.length === 0) return
  told.value = await got<{ say: LaptopSay | null; gate: Gate }>(api.laptop.$get()).catch(() => null)
}
void look()
useIntervalFn(() => void look(), lookEveryMs)
const onMains = () =>
  ask(async () => {
    told.value = await got<{ say: LaptopSay | null; gate: Gate }>(
      api.laptop.$put({ json: { onMains: true, minutesLeft: null } }),
    )
  })
const warns = computed(() => {
  const gate = told.value?.gate
  return live.running.length > 0 && gate && (gate.verdict === 'hold' || gate.verdict === 'stop') ? gate : null
})
</script>

<template>
  <div
    v-if="warns"
    class="laptop flex gap-2 w-full line-t flex-wrap items-center text-ink small"
    role="alert"
  >
    <VerdictMark :verdict="warns.verdict" />
    <span>{{ written(warns.findings[0]!.says) }}</span>
    <button type="button" class="textlike min-h-11" @click="onMains">It is on mains now</button>
    <ProblemNote v-if="problem" :problem="problem" />
  </div>
</template>

<style scoped>
/* A row across the band, below the runs that it is about. */
.laptop {
  order: 10;
}
</style>
