<script setup lang="ts">
import { shadeOf, shadeRange } from '@bench-wake/core/rounds'
import { computed } from 'vue'
import { figureText } from './words'

/** Figures over two edges, coloured by size: a table of an image, or an error by speed and load. */
const {
  x,
  y,
  cells,
  count = null,
  decimals,
  signed = false,
  unit,
  label,
} = defineProps<{
  x: { name: string; unit: string; points: readonly number[] }
  y: { name: string; unit: string; points: readonly number[] }
  /** Row after row; null where there is none. */
  cells: readonly (number | null)[]
  /** How many figures each cell rests on. */
  count?: readonly number[] | null
  decimals?: number
  /** Above and below zero are two colours. */
  signed?: boolean
  unit: string
  label: string
}>()

const range = computed(() => shadeRange(cells, signed))
/** Highest row at the top, as a map lies. */
const rows = computed(() => y.points.map((_, index) => y.points.length - 1 - index))
const at = (row: number, column: number) => row * x.points.length + column

function fill(figure: number | null): string {
  if (figure === null) return 'transparent'
  const shade = shadeOf(figure, range.value)
  const colour = shade < 0 ? 'var(--note)' : 'var(--hold)'
  return `color-mix(in srgb, ${colour} ${Math.round(Math.abs(shade) * 36)}%, transparent)`
}
const edge = ({ name, unit: own }: { name: string; unit: string }) => (own ? `${name}, ${own}` : name)
</script>

<template>
  <div class="overflow-x-auto" tabindex="0" role="group" :aria-label="label">
    <table class="mono small">
      <caption class="visually-hidden">
        {{ label }}
      </caption>
      <tbody>
        <tr v-for="row in rows" :key="row">
          <th class="py-1 px-2 font-400 soft text-right" scope="row">
            {{ y.name ? figureText(y.points[row]!) : '' }}
          </th>
          <td
            v-for="(_, column) in x.points"
            :key="column"
            class="py-1 px-2 line-a text-right min-w-14"
            :style="{ background: fill(cells[at(row, column)] ?? null) }"
            :class="{ none: cells[at(row, column)] == null }"
          >
            <template v-if="cells[at(row, column)] != null"
              >{{ signed && cells[at(row, column)]! > 0 ? '+' : ''
              }}{{ figureText(cells[at(row, column)]!, decimals) }}</template
            ><small v-if="count" class="block">{{ count[at(row, column)] || '·' }}</small>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <th class="py-1 px-2 font-400 soft text-right" scope="col">{{ y.name ? edge(y) : '' }}</th>
          <th v-for="point in x.points" :key="point" class="py-1 px-2 font-400 soft text-right" scope="col">
            {{ x.name ? figureText(point) : '' }}
          </th>
        </tr>
      </tfoot>
    </table>
    <p class="mt-1 small soft">
      {{ x.name ? edge(x) : '' }}<template v-if="unit">{{ x.name ? '; ' : '' }}figures in {{ unit }}</template
      ><template v-if="count">; below each, how many it rests on</template>
    </p>
  </div>
</template>

<style scoped>
table {
  border-collapse: collapse;
}
td.none small {
  color: var(--soft);
}
</style>
