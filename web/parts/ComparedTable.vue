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
        <td>{{ row.label }}</td>
        <td class="mono">{{ row.before ?? 'not read' }}</td>
        <td class="mono" :class="{ changed: row.before !== row.after }">{{ row.after ?? 'not said' }}</td>
        <td class="rule">
          <VerdictMark :verdict="row.ok === null ? 'unknown' : row.ok ? 'go' : 'stop'" />
          {{ words[row.change] }}
        </td>
      </tr>
    </tbody>
  </NTable>
</template>

<style scoped>
.compared td {
  padding-top: 7px;
  padding-bottom: 7px;
}
.rule {
  white-space: nowrap;
}
.changed {
  font-weight: 650;
}
</style>
