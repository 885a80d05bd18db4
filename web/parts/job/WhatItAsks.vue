<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'

/** What the unit asks in the middle of an update, with the usual answer (PRACTICE H4): whoever knows it stays there. */
defineProps<{ asks: NonNullable<FamilyDocument['asks']> }>()
</script>

<template>
  <section class="asks" aria-label="What it asks meanwhile">
    <h3>What it asks meanwhile</h3>
    <dl>
      <div v-for="each in asks" :key="each.asks">
        <dt class="mono">{{ each.asks }}</dt>
        <dd>{{ each.usually }}<small v-if="each.when" class="soft">{{ each.when }}</small></dd>
      </div>
    </dl>
  </section>
</template>

<style scoped>
.asks {
  border-top: 1px solid var(--hair);
  padding-top: 16px;
  margin: 16px 0;
}
dl {
  margin: 8px 0 0;
}
dl div {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 16px;
  padding: 6px 0;
}
dd {
  margin: 0;
}
small {
  display: block;
}
</style>
