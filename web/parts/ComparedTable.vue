<script setup lang="ts">
import { NTable } from 'naive-ui'
import type { Compared } from '@bench-wake/core/proof'
import VerdictMark from './VerdictMark.vue'

defineProps<{ rows: readonly Compared[] }>()

const words = { must: 'had to change', 'must-not': 'must not change', may: 'may change' }
</script>

<template>
  <NTable v-columns :bordered="false" class="list compared">
    <thead>
      <tr>
        <th>Line</th>
        <th>Before</th>
        <th>After</th>
        <th>Rule</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.field">
        <td class="py-1.75">{{ row.label }}</td>
        <td class="mono py-1.75">{{ row.before ?? 'not read' }}</td>
        <td class="mono py-1.75" :class="{ changed: row.before !== row.after }">
          {{ row.after ?? 'not said' }}
        </td>
        <td class="py-1.75 whitespace-nowrap">
          <VerdictMark :verdict="row.ok === null ? 'unknown' : row.ok ? 'go' : 'stop'" />
          {{ words[row.change] }}
        </td>
      </tr>
    </tbody>
  </NTable>
</template>

<style scoped>
.changed {
  font-weight: 650;
}
</style>
