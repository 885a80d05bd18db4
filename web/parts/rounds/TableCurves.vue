<script setup lang="ts">
import type { ChangedTable } from '@bench-wake/server'
import type { ApexOptions } from 'apexcharts'
import { computed } from 'vue'
import VueApexCharts from 'vue3-apexcharts'
import { useChart } from '../useChart'
import { figureText } from './words'

/** A table as curves over its columns, a pair a row that changed: before thin, after thick. */
const { table } = defineProps<{ table: ChangedTable }>()
const { colour, base } = useChart()

/** Rows that changed; more than six pairs nobody tells apart. */
const rows = computed(() => {
  const width = table.x.points.length
  return table.y.points
    .map((_, row) => row)
    .filter((row) =>
      table.x.points.some(
        (_, column) => table.before[row * width + column] !== table.after[row * width + column],
      ),
    )
    .slice(0, 6)
})
const series = computed(() => {
  const width = table.x.points.length
  const row = (cells: readonly (number | null)[], at: number) =>
    table.x.points.map((x, column) => ({ x, y: cells[at * width + column] ?? null }))
  return rows.value.flatMap((at) => {
    const name = table.y.name ? `${table.y.name} ${figureText(table.y.points[at]!)}` : table.name
    return [
      { name: `${name}, before`, data: row(table.before, at) },
      { name: `${name}, after`, data: row(table.after, at) },
    ]
  })
})
const options = computed<ApexOptions>(() => ({
  ...base('line'),
  colors: rows.value.flatMap((_, index) => {
    const own = [
      colour('hull'),
      colour('hold'),
      colour('go'),
      colour('note'),
      colour('brass'),
      colour('stop'),
    ][index]!
    return [own, own]
  }),
  stroke: {
    width: rows.value.flatMap(() => [1.5, 3]),
    dashArray: rows.value.flatMap(() => [5, 0]),
    curve: 'straight',
  },
  legend: { position: 'right' },
  xaxis: {
    type: 'numeric',
    title: { text: [table.x.name, table.x.unit].filter(Boolean).join(', ') },
  },
  yaxis: { title: { text: table.unit }, labels: { formatter: (figure: number) => figureText(figure) } },
}))
</script>

<template>
  <VueApexCharts type="line" height="280" :options="options" :series="series" />
</template>
