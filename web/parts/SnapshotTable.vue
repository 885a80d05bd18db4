<script setup lang="ts">
import type { Snapshot } from '@bench-wake/core/unit'

defineProps<{ snapshot: Snapshot }>()
</script>

<template>
  <dl class="page-of-unit">
    <div v-for="line in snapshot.lines" :key="line.field">
      <dt>{{ line.label }}</dt>
      <dd class="mono">{{ line.value }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.page-of-unit {
  margin: 0;
}
.page-of-unit div {
  display: grid;
  grid-template-columns: minmax(110px, 190px) 1fr;
  gap: 16px;
  padding: 7px 0;
  border-bottom: 1px solid var(--hair);
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
