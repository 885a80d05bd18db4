<script setup lang="ts">
import type { Gate, LaptopSay } from '@bench-wake/core/ready'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, got } from '../stores/api'
import { useLive } from '../stores/live'
import ProblemNote from './ProblemNote.vue'
import { useAsked } from './useAsked'
import VerdictMark from './VerdictMark.vue'

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
  <div v-if="warns" class="laptop" role="alert">
    <VerdictMark :verdict="warns.verdict" />
    <span>{{ warns.findings[0]!.says }}</span>
    <button type="button" class="textlike" @click="onMains">It is on mains now</button>
    <ProblemNote v-if="problem" :problem="problem" />
  </div>
</template>

<style scoped>
/* A row across the band, below the runs that it is about. */
.laptop {
  order: 10;
  width: 100%;
  border-top: 1px solid var(--hair);
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  color: var(--ink);
  font-size: 13px;
}
button {
  min-height: 44px;
}
</style>
