<script setup lang="ts">
import { conditionOf, type RunState, type StationId } from '@bench-wake/core/run'
import type { JobView } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed } from 'vue'
import PlugNow from '../PlugNow.vue'
import PortChoice from '../PortChoice.vue'
import { written } from '../written'

/** What a person may still choose after a run that did not reach its end: the adapter may have come back as another port. */
const port = defineModel<string | null>('port', { required: true })
const { view, run } = defineProps<{ view: JobView; run: RunState }>()
defineEmits<{ station: [station: StationId] }>()
const nothing = computed(() => ['as-it-was', 'in-bootloader'].includes(conditionOf(run)))
const moved = computed(() => port.value !== null && port.value !== run.facts.port.id)
</script>

<template>
  <section class="mt-5.5 pt-4 line-t" aria-label="Still free to choose">
    <h3>Still free to choose</h3>
    <p v-if="view.driven" class="acts">
      <PortChoice v-model="port" :unit-id="view.unit.id" :only="run.facts.port.id" />
      <PlugNow @found="port = $event" />
    </p>
    <p v-if="view.driven && (moved || port === null)" class="small soft" role="status">
      <template v-if="port === null">
        {{ run.facts.port.name }} is not there any more. Plug the adapter in; it may come back under another
        name.
      </template>
      <template v-else>The last leg went over {{ run.facts.port.name }}.</template>
    </p>
    <p class="acts">
      <NButton @click="$emit('station', 'bench')">{{
        nothing ? 'Back to the bench' : 'Supply, wiring, adapter'
      }}</NButton>
      <NButton v-if="run.facts.image" @click="$emit('station', 'image')">Another image</NButton>
      <NButton @click="$emit('station', 'close')">Close it as it is…</NButton>
    </p>
    <ul
      v-if="view.job.releases.length"
      class="small soft mt-2 mb-0 mx-0 pl-4.5"
      aria-label="Released for this job"
    >
      <li v-for="release in view.job.releases" :key="release.rule">
        {{ written(release.says) }} Released by {{ release.name }}: {{ release.reason }}
      </li>
    </ul>
  </section>
</template>
