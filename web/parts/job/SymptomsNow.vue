<script setup lang="ts">
import { symptomNow, symptomText, type SymptomWord } from '@bench-wake/core/job'
import { NRadio, NRadioGroup } from 'naive-ui'
import { computed } from 'vue'
import PickDay from '../PickDay.vue'

/** What became of what was reported; what cannot be said yet is asked again on a day (PRACTICE A6). */
const words = defineModel<SymptomWord[]>({ required: true })
const day = defineModel<string | null>('day', { required: true })
const open = computed(() => words.value.some(({ now }) => now === 'not-known'))
</script>

<template>
  <section class="symptoms grid gap-2.5" aria-label="What was reported">
    <div v-for="word in words" :key="word.says">
      <p class="small soft">Reported: {{ word.says }}</p>
      <NRadioGroup v-model:value="word.now" :name="`symptom ${word.says}`">
        <NRadio v-for="now in symptomNow" :key="now" :value="now">It is {{ symptomText[now] }}</NRadio>
      </NRadioGroup>
    </div>
    <label v-if="open" class="field max-w-55">Ask again on <PickDay v-model:day="day" clearable /></label>
  </section>
</template>

<style scoped>
.symptoms :deep(.n-radio) {
  min-height: 44px;
  align-items: center;
  margin-right: 20px;
}
</style>
