<script setup lang="ts">
/** Labels with their values, one a line: the one way in which facts are listed. */
defineProps<{ facts: readonly { label: string; value: string; mono?: boolean; soft?: boolean }[] }>()
</script>

<template>
  <dl class="facts">
    <div v-for="(fact, index) in facts" :key="index">
      <dt>{{ fact.label }}</dt>
      <dd :class="{ mono: fact.mono, soft: fact.soft }">{{ fact.value }}</dd>
    </div>
  </dl>
</template>

<style scoped>
.facts {
  margin: 0;
}
.facts div {
  display: grid;
  grid-template-columns: minmax(110px, 170px) 1fr;
  gap: 16px;
  padding: 6px 0;
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
