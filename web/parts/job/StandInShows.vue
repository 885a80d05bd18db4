<script setup lang="ts">
import type { StandInCard } from '@bench-wake/server'
import { onMounted, ref } from 'vue'
import { api, got } from '../../stores/api'

/** The screen of a stand-in that no link reads, as a person beside it sees it; made anew for each question. */
const { jobId } = defineProps<{ jobId: string }>()
const shows = ref<string[]>([])
onMounted(async () => {
  const param = { id: jobId }
  const slot = await got<StandInCard | null>(api.jobs[':id']['stand-in-card'].$get({ param })).catch(
    () => null,
  )
  shows.value = slot?.shows ?? []
})
</script>

<template>
  <div v-if="shows.length" class="screen" role="status">
    <p class="small soft">The stand-in shows</p>
    <p v-for="line in shows" :key="line" class="mono">{{ line }}</p>
  </div>
</template>

<style scoped>
.screen {
  border: 1px solid var(--edge);
  padding: 10px 14px;
  margin: 4px 0 14px;
  max-width: 520px;
  background: var(--sheet);
}
p {
  margin: 0;
}
</style>
