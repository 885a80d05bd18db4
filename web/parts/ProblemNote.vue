<script setup lang="ts">
import type { ProblemDocument } from '@bench-wake/server'
import VerdictMark from './VerdictMark.vue'
import { written } from './written'

defineProps<{ problem: ProblemDocument }>()
</script>

<template>
  <div class="grid py-2.5 px-3.5 gap-3 grid-cols-[18px_1fr] bar-stop bg-sheet wrap-anywhere" role="alert">
    <VerdictMark verdict="stop" quiet :size="18" />
    <div>
      <p class="title text-lead font-650">
        <template v-if="problem.thing">{{ problem.thing }}: </template>{{ problem.title }}.
      </p>
      <p v-if="problem.place || problem.expected || problem.found" class="small soft">
        <template v-if="problem.place?.line !== undefined">Line {{ problem.place.line }}. </template>
        <template v-if="problem.place?.at">At {{ problem.place.at }}. </template>
        <template v-if="problem.place?.offset !== undefined">Byte {{ problem.place.offset }}. </template>
        <template v-if="problem.expected">Expected {{ written(problem.expected) }}. </template>
        <template v-if="problem.found">Found {{ written(problem.found) }}.</template>
      </p>
      <p>{{ written(problem.remedy) }}</p>
    </div>
  </div>
</template>
