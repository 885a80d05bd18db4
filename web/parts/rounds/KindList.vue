<script setup lang="ts">
import type { CaseAgreementForm } from '@bench-wake/core/rounds'
import { NButton, NInput, NInputNumber } from 'naive-ui'

/** The kinds of log, in the order in which they are asked for: how long each is, and how close its rows. */
const kinds = defineModel<CaseAgreementForm['kinds']>({ required: true })
</script>

<template>
  <ul class="rows">
    <li v-for="(kind, index) in kinds" :key="kind.id">
      <NInput v-model:value="kind.name" :input-props="{ 'aria-label': `Kind ${index + 1}` }" />
      <label class="number"
        ><NInputNumber
          v-model:value="kind.minSeconds"
          :min="0"
          :show-button="false"
          :input-props="{ 'aria-label': `Seconds of ${kind.name}` }"
        />
        s at least</label
      >
      <label class="number"
        ><NInputNumber
          v-model:value="kind.minHertz"
          :min="0"
          :show-button="false"
          :input-props="{ 'aria-label': `Rows a second of ${kind.name}` }"
        />
        rows a second</label
      >
      <NButton quaternary :disabled="kinds.length === 1" @click="kinds.splice(index, 1)">Remove</NButton>
    </li>
  </ul>
</template>

<style scoped>
.rows {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
.rows li {
  display: grid;
  grid-template-columns: minmax(160px, 2fr) minmax(170px, 1fr) minmax(190px, 1fr) auto;
  gap: 10px;
  align-items: center;
}
.number {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 8px;
  align-items: center;
  font-size: 13px;
  color: var(--soft);
}
@media (max-width: 700px) {
  .rows li {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
