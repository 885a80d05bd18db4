<script setup lang="ts">
import type { ApexOptions } from 'apexcharts'
import { computed, shallowRef, watch } from 'vue'
import VueApexCharts from 'vue3-apexcharts'
import type { LogDesk } from '../../workers/log-desk'
import { useChart } from '../useChart'
import { figureText } from './words'

/** One channel against another: every row of a short log, an even selection of a long one. */
const { desk, log, x, y, xUnit, yUnit } = defineProps<{
  desk: LogDesk
  log: string
  x: string
  y: string
  xUnit: string
  yUnit: string
}>()
/** More points than this are a blot, and slow. */
const maxPoints = 3000
const points = shallowRef<[number, number][]>([])
watch(
  [() => log, () => x, () => y],
  async () => (points.value = await desk('scatter', log, x, y, maxPoints)),
  { immediate: true },
)
const { colour, base } = useChart()
const series = computed(() => [{ name: `${y} over ${x}`, data: points.value }])
const options = computed<ApexOptions>(() => ({
  ...base('scatter'),
  colors: [colour('hull')],
  markers: { size: 2.5, strokeWidth: 0 },
  tooltip: { enabled: false },
  xaxis: {
    type: 'numeric',
    tickAmount: 8,
    title: { text: [x, xUnit].filter(Boolean).join(', ') },
    labels: { formatter: (figure: string) => figureText(Number(figure)) },
  },
  yaxis: {
    title: { text: [y, yUnit].filter(Boolean).join(', ') },
    labels: { formatter: (figure: number) => figureText(figure) },
  },
}))
</script>

<template>
  <VueApexCharts type="scatter" height="360" :options="options" :series="series" />
</template>
