<script setup lang="ts">
import type { UnitHistory } from '@bench-wake/core/unit'
import type { LogbookRow } from '@bench-wake/core/record'
import { useElementVisibility, useEventListener } from '@vueuse/core'
import type { ApexOptions } from 'apexcharts'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import VueApexCharts from 'vue3-apexcharts'
import { useChart } from '../useChart'
import { durationText, whenText } from '../written'

/** A unit over the years: which version each part had, its runs, and when it kept fault codes. */
const { history, runs } = defineProps<{ history: UnitHistory; runs: readonly LogbookRow[] }>()
const { colour, base } = useChart()
const router = useRouter()

interface Bar {
  x: string
  y: [number, number]
  fillColor: string
  says: string
  text: string
  runId?: string
}
/** A run takes minutes where a year is drawn: as wide as it needs to be seen. */
const bars = computed((): Bar[] => {
  const versions = history.parts.flatMap(({ label, stretches }) =>
    stretches.map(({ version, from, to }, index) => ({
      x: label,
      y: [from, to] as [number, number],
      fillColor: colour(index % 2 === 0 ? 'hull' : 'soft'),
      text: version,
      says: `${label} ${version}, ${whenText(from)} to ${whenText(to)}`,
    })),
  )
  const ends = versions.flatMap(({ y }) => y).concat(runs.map(({ startedAt }) => startedAt))
  const least = (Math.max(...ends) - Math.min(...ends)) / 150
  const mark = (x: string, at: number, fillColor: string, says: string, runId?: string): Bar => ({
    x,
    y: [at, at + least],
    fillColor,
    text: '',
    says,
    ...(runId === undefined ? {} : { runId }),
  })
  return [
    ...versions,
    ...runs.map(({ startedAt, outcome, trouble, tookMs, runId }) =>
      mark(
        'Runs',
        startedAt,
        colour(outcome === 'proved' || outcome === 'done' ? 'go' : outcome === 'running' ? 'brass' : 'stop'),
        `Run of ${whenText(startedAt)}, ${durationText(tookMs)}: ${trouble ?? 'proved'}`,
        runId,
      ),
    ),
    ...history.faults.map(({ at, text }) =>
      mark('Fault codes', at, colour('hold'), `${whenText(at)}: ${text}`),
    ),
  ]
})
const rows = computed(() => new Set(bars.value.map(({ x }) => x)).size)
const says = computed(() => {
  const parts = history.parts.map(
    ({ label, stretches }) => `${label}: ${stretches.map(({ version }) => version).join(', then ')}`,
  )
  return [...parts, `${runs.length} ${runs.length === 1 ? 'run' : 'runs'}`].join('. ')
})
const options = computed<ApexOptions>(() => ({
  ...base('rangeBar'),
  chart: {
    ...base('rangeBar').chart,
    type: 'rangeBar',
    events: {
      dataPointSelection: (_event, _chart, { dataPointIndex }) => {
        const runId = bars.value[dataPointIndex as number]?.runId
        if (runId) void router.push({ name: 'record', params: { id: runId } })
      },
    },
  },
  series: [{ name: 'History', data: bars.value }],
  plotOptions: { bar: { horizontal: true, barHeight: '55%', rangeBarGroupRows: true } },
  dataLabels: {
    enabled: true,
    formatter: (_value, { dataPointIndex }) => bars.value[dataPointIndex as number]?.text ?? '',
    style: { colors: [colour('paper')], fontSize: '13px' },
  },
  tooltip: {
    custom: ({ dataPointIndex }: { dataPointIndex: number }) => {
      const text = document.createElement('p')
      text.style.margin = '8px 12px'
      text.textContent = bars.value[dataPointIndex]?.says ?? ''
      return text.outerHTML
    },
  },
  fill: { opacity: 1 },
  yaxis: { labels: { style: { fontSize: '13px', colors: [colour('ink')] } } },
  legend: { show: false },
  xaxis: { type: 'datetime', labels: { datetimeUTC: false } },
}))
/** It is drawn as it comes into sight: that takes longer than a key may wait, and it stands far down. */
const place = ref<HTMLElement>()
const seen = useElementVisibility(place, { once: true, rootMargin: '200px' })
/** On paper it stands whether it was scrolled to or not. */
const printed = ref(false)
useEventListener('beforeprint', () => (printed.value = true))
const height = computed(() => 70 + rows.value * 44)
const first = [{ name: 'History', data: bars.value }]
</script>

<template>
  <div ref="place" role="img" :aria-label="says" class="line w-full" :style="{ minHeight: `${height}px` }">
    <VueApexCharts
      v-if="seen || printed"
      type="rangeBar"
      :height="height"
      :series="first"
      :options="options"
    />
  </div>
</template>
