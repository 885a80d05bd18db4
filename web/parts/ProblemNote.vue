<script setup lang="ts">
import type { ProblemDocument } from '@bench-wake/server'
import VerdictMark from './VerdictMark.vue'

defineProps<{ problem: ProblemDocument }>()
</script>

<template>
  <div class="problem" role="alert">
    <VerdictMark verdict="stop" quiet :size="18" />
    <div>
      <p class="title"><template v-if="problem.thing">{{ problem.thing }}: </template>{{ problem.title }}.</p>
      <p v-if="problem.place || problem.expected || problem.found" class="small soft">
        <template v-if="problem.place?.line !== undefined">Line {{ problem.place.line }}. </template>
        <template v-if="problem.place?.at">At {{ problem.place.at }}. </template>
        <template v-if="problem.place?.offset !== undefined">Byte {{ problem.place.offset }}. </template>
        <template v-if="problem.expected">Expected {{ problem.expected }}. </template>
        <template v-if="problem.found">Found {{ problem.found }}.</template>
      </p>
      <p>{{ problem.remedy }}</p>
    </div>
  </div>
</template>

<style scoped>
.problem {
  display: grid;
  grid-template-columns: 18px 1fr;
  gap: 12px;
  border-left: 3px solid var(--stop);
  padding: 10px 14px;
  background: var(--sheet);
  overflow-wrap: anywhere;
}
.title {
  font-size: 18px;
  font-weight: 650;
}
</style>
