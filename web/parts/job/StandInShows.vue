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
  <div
    v-if="shows.length"
    class="screen mt-1 mb-3.5 py-2.5 px-3.5 line-a-edge max-w-130 bg-sheet"
    role="status"
  >
    <p class="small soft">The stand-in shows</p>
    <p v-for="line in shows" :key="line" class="mono">{{ line }}</p>
  </div>
</template>
