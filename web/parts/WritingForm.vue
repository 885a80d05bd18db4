<script setup lang="ts">
import { NButton, NFormItem } from 'naive-ui'
import { computed } from 'vue'
import PickOne from './PickOne.vue'
import { fixed, locales, plainWriting, sampleOf, whenText, writing, written } from './written'

/** How figures and dates are written in this browser. What is kept stays as it was. */
const forms = [
  { value: 'celsius', label: '°C' },
  { value: 'fahrenheit', label: '°F' },
]
const gauges = [
  { value: 'square-millimetres', label: 'mm²' },
  { value: 'awg', label: 'AWG' },
]
const regions = new Intl.DisplayNames('en', { type: 'region' })
const localeOptions = computed(() =>
  locales.map((value) => ({
    value,
    label: `${value === 'iso' ? 'International' : regions.of(value.slice(3))}: ${sampleOf(value)}`,
  })),
)
const now = Date.now()
const isPlain = computed(() => JSON.stringify(writing.value) === JSON.stringify(plainWriting))
</script>

<template>
  <section
    id="writing"
    class="grid mt-5 py-4.5 gap-3 grid-cols-[minmax(0,1fr)] line-t justify-items-start"
    aria-label="Dates and units"
  >
    <h2>Dates and units</h2>
    <div class="flex gap-4 flex-wrap w-full">
      <NFormItem label="Dates, times and decimals" class="w-90 max-w-full" :show-feedback="false">
        <PickOne v-model:value="writing.locale" label="Dates, times and decimals" :options="localeOptions" />
      </NFormItem>
      <NFormItem label="Temperature" class="w-40" :show-feedback="false">
        <PickOne v-model:value="writing.temperature" label="Temperature" :options="forms" />
      </NFormItem>
      <NFormItem label="Lead size" class="w-40" :show-feedback="false">
        <PickOne v-model:value="writing.wire" label="Lead size" :options="gauges" />
      </NFormItem>
    </div>
    <p class="soft" role="status">
      {{ whenText(now) }}: {{ fixed(12.6, 2) }} V at {{ written('15 °C') }} over a lead of
      {{ written('2.50 mm²') }}.
    </p>
    <p class="small soft">
      A figure typed without a unit is read in the one chosen here; with a unit, as it says. Records and files
      keep SI units, a decimal point and dates like 2026-11-24.
    </p>
    <NButton v-if="!isPlain" @click="writing = { ...plainWriting }">As it was at first</NButton>
  </section>
</template>
