<script setup lang="ts">
import type { Stretch, SupplyCourse } from '@bench-wake/core/ready'
import type { ApexOptions } from 'apexcharts'
import { computed } from 'vue'
import VueApexCharts from 'vue3-apexcharts'
import { useChart } from '../useChart'
import { useRested } from '../useRested'
import { fixed } from '../written'

/** Volts at the unit's terminals over the time line of the steps, with floor and ceiling drawn. */
const props = defineProps<{
  course: SupplyCourse
  stretches: readonly Stretch[]
  floorVolts: number
  ceilingVolts: number
}>()

const { colour, base } = useChart()
/** Drawing takes longer than a key may: the picture follows the figures. */
const drawn = useRested(() => ({ ...props }))
const minutes = (ms: number) => ms / 60_000
const seriesOf = ({ points }: SupplyCourse) => [
  {
    name: 'At the terminals',
    data: points.map(({ at, volts }) => ({ x: minutes(at), y: Math.round(volts * 1000) / 1000 })),
  },
]
/** The first ones; later ones come with the options, for each of the two would be drawn on its own. */
const first = seriesOf(props.course)
const options = computed<ApexOptions>(() => {
  const { course, stretches, floorVolts, ceilingVolts } = drawn.value
  const volts = course.points.map((point) => point.volts)
  const low = Math.min(floorVolts, ...volts)
  const high = Math.max(floorVolts, ...volts)
  const room = Math.max(0.1, (high - low) * 0.25)
  let at = 0
  const steps = stretches.flatMap(({ name, ms }) => {
    const from = at
    at += ms
    return ms > 0 ? [{ name, from: minutes(from), to: minutes(at) }] : []
  })
  const total = minutes(at)
  return {
    ...base('line'),
    series: seriesOf(course),
    colors: [colour('hull')],
    stroke: { width: 3, curve: 'straight' },
    tooltip: {
      x: { formatter: (value: number) => `${fixed(value, 1)} min` },
      y: { formatter: (value: number) => `${fixed(value, 2)} V` },
    },
    xaxis: {
      type: 'numeric',
      min: 0,
      max: total,
      tickAmount: 5,
      decimalsInFloat: 1,
      title: { text: 'minutes' },
    },
    yaxis: {
      min: low - room,
      max: Math.min(high + room, Math.max(ceilingVolts, high) + room),
      tickAmount: 4,
      labels: { formatter: (value: number) => `${fixed(value, 2)} V` },
    },
    annotations: {
      yaxis: [
        {
          y: floorVolts,
          borderColor: colour('stop'),
          strokeDashArray: 0,
          borderWidth: 2,
          label: {
            text: `floor ${fixed(floorVolts, 2)} V`,
            position: 'left',
            textAnchor: 'start',
            style: { background: colour('paper'), color: colour('stop') },
          },
        },
        {
          y: ceilingVolts,
          borderColor: colour('hold'),
          label: {
            text: `ceiling ${fixed(ceilingVolts, 2)} V`,
            position: 'left',
            textAnchor: 'start',
            style: { background: colour('paper'), color: colour('hold') },
          },
        },
      ],
      xaxis: steps
        .filter(({ from, to }) => to - from > total / 14)
        .map(({ name, from, to }, index) => ({
          x: from,
          x2: to,
          fillColor: index % 2 ? colour('water') : colour('sheet'),
          opacity: 0.35,
          borderColor: 'transparent',
          label: {
            text: name,
            orientation: 'horizontal',
            textAnchor: 'start',
            offsetX: 4,
            style: { background: 'transparent', color: colour('soft') },
          },
        })),
      points: [
        {
          x: minutes(course.lowestAt),
          y: course.lowestVolts,
          marker: {
            size: 6,
            fillColor: colour(course.lowestVolts < floorVolts ? 'stop' : 'go'),
            strokeColor: colour('paper'),
          },
          label: {
            text: `${fixed(course.lowestVolts, 2)} V`,
            style: { background: colour('paper'), color: colour('ink') },
          },
        },
      ],
    },
  }
})
</script>

<template>
  <figure
    class="m-0"
    :aria-label="`Volts over the run: lowest ${fixed(course.lowestVolts, 2)} V, floor ${fixed(floorVolts, 2)} V`"
  >
    <VueApexCharts type="line" height="230" :options="options" :series="first" />
  </figure>
</template>
