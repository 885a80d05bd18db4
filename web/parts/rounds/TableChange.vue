<script setup lang="ts">
import type { ChangedTable } from '@bench-wake/server'
import { NRadioButton, NRadioGroup } from 'naive-ui'
import { computed, ref } from 'vue'
import FigureMap from './FigureMap.vue'
import TableCurves from './TableCurves.vue'
import { figureText } from './words'

/** One table that a revision changed: before, after and what differs, as a map or as curves. */
const { table } = defineProps<{ table: ChangedTable }>()
const shown = ref<'change' | 'before' | 'after' | 'curves'>('change')
const change = computed(() =>
  table.after.map((figure, index) => {
    const before = table.before[index]
    if (figure === null || before === null || before === undefined || figure === before) return null
    return figure - before
  }),
)
const views = [
  ['change', 'Change'],
  ['before', 'Before'],
  ['after', 'After'],
  ['curves', 'Curves'],
] as const
</script>

<template>
  <section class="mt-3.5 mb-5.5" :data-table="table.id">
    <div class="flex mb-2 gap-3 flex-wrap justify-between items-end">
      <div>
        <h3 class="text-body text-ink">{{ table.name }}</h3>
        <p class="small soft">
          <template v-if="table.largest"
            >{{ table.cells }} {{ table.cells === 1 ? 'cell' : 'cells' }}, from
            {{ figureText(table.largest.down) }} to +{{ figureText(table.largest.up) }}
            {{ table.unit }}</template
          ><template v-else>its breakpoints moved</template>
        </p>
      </div>
      <NRadioGroup v-model:value="shown" size="medium" :name="`view-${table.id}`">
        <NRadioButton v-for="[value, says] in views" :key="value" :value="value">{{ says }}</NRadioButton>
      </NRadioGroup>
    </div>
    <TableCurves v-if="shown === 'curves'" :table="table" />
    <FigureMap
      v-else
      :x="table.x"
      :y="table.y"
      :cells="shown === 'change' ? change : table[shown]"
      :decimals="table.decimals"
      :signed="shown === 'change'"
      :unit="table.unit"
      :label="`${table.name}, ${shown}`"
    />
  </section>
</template>
