<script setup lang="ts">
import type { AskedLine } from '@bench-wake/core/link'
import { NFormItem, NInput } from 'naive-ui'
import PickOne from '../PickOne.vue'

/** How a device is asked in words of its own: what is sent, what ends it, the line that it answers. */
const words = defineModel<AskedLine>({ required: true })
const { slots } = defineProps<{
  /** What stands where a figure is: "{volts} where the figure stands". */
  slots: string
}>()
const set = (change: Partial<AskedLine>) => (words.value = { ...words.value, ...change })
const sends = 'Sends (empty: it talks by itself)'
const lineEnds: { value: AskedLine['lineEnd']; label: string }[] = [
  { value: '\r', label: 'carriage return' },
  { value: '\n', label: 'line feed' },
  { value: '\r\n', label: 'both' },
  { value: '', label: 'nothing' },
]
</script>

<template>
  <NFormItem :label="sends">
    <NInput
      :value="words.sends"
      class="mono"
      :input-props="{ 'aria-label': sends }"
      @update:value="set({ sends: $event })"
    />
  </NFormItem>
  <NFormItem label="Ends with">
    <PickOne
      :value="words.lineEnd"
      label="What ends the question"
      :options="lineEnds"
      @update:value="set({ lineEnd: $event })"
    />
  </NFormItem>
  <NFormItem :label="`Line it answers, ${slots}`">
    <NInput
      :value="words.answer"
      class="mono"
      :input-props="{ 'aria-label': `Line it answers, ${slots}` }"
      @update:value="set({ answer: $event })"
    />
  </NFormItem>
</template>
