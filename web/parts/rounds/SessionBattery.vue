<script setup lang="ts">
import { judgeSession, type LogKind } from '@bench-wake/core/rounds'
import type { LaptopSay } from '@bench-wake/core/ready'
import { NButton, NCheckbox, NInputNumber } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { api, got } from '../../stores/api'
import FindingList from '../FindingList.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

/** Whether the laptop lasts for the logs that are left (PRACTICE K5). */
const { kinds } = defineProps<{ kinds: readonly LogKind[] }>()
const { busy, problem, ask } = useAsked()
const said = ref<LaptopSay | null>(null)
const onMains = ref(false)
const minutes = ref<number | null>(null)
onMounted(() =>
  ask(async () => {
    said.value = (await got<{ say: LaptopSay | null }>(api.laptop.$get())).say
  }),
)
const left = computed(() =>
  said.value === null ? undefined : said.value.onMains ? null : (said.value.minutesLeft ?? undefined),
)
const finding = computed(() => judgeSession(kinds, left.value))
const say = () =>
  ask(async () => {
    const json: LaptopSay = { onMains: onMains.value, minutesLeft: onMains.value ? null : minutes.value }
    said.value = (await got<{ say: LaptopSay | null }>(api.laptop.$put({ json }))).say
  })
</script>

<template>
  <div class="session" data-part="session">
    <FindingList :findings="[finding]" />
    <form v-if="finding.level !== 'go'" class="say flex gap-3.5 flex-wrap items-center" @submit.prevent="say">
      <NCheckbox v-model:checked="onMains">Laptop on mains</NCheckbox>
      <label v-if="!onMains" class="grid gap-2 grid-cols-[90px_auto] items-center"
        ><NInputNumber
          v-model:value="minutes"
          :min="0"
          :max="2000"
          :show-button="false"
          :input-props="{ 'aria-label': 'Minutes of its battery' }"
        />
        minutes left</label
      >
      <NButton attr-type="submit" :loading="busy" :disabled="!onMains && minutes === null">Save</NButton>
    </form>
    <ProblemNote v-if="problem" :problem="problem" />
  </div>
</template>
