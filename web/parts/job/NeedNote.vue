<script setup lang="ts">
import type { JobView } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { written } from '../written'

/** Is anything to be done? The answer comes first, with its reason (PRACTICE A2, A6, A7). */
const { view } = defineProps<{ view: JobView }>()
const emit = defineEmits<{ closed: [] }>()
const look = useLook()
const name = ref(look.name)
const { busy, problem, ask } = useAsked()

const close = () =>
  ask(async () => {
    look.name = name.value.trim()
    const json = { name: name.value.trim(), note: '' }
    await got(api.jobs[':id'].close.$post({ param: { id: view.job.id }, json }))
    emit('closed')
  })
</script>

<template>
  <div class="grid mb-5 pb-3.5 gap-3 grid-cols-[16px_1fr] line-b" :data-need="view.need.answer">
    <VerdictMark
      class="mt-5.5"
      :verdict="view.need.answer === 'unknown' ? 'unknown' : view.need.finding.level"
      quiet
      :size="16"
    />
    <div>
      <p class="small soft">Is anything to be done?</p>
      <p class="says text-lead">{{ written(view.need.finding.says) }}</p>
      <p class="small soft">
        {{ written(view.need.finding.because) }} {{ written(view.need.finding.remedy) }}
      </p>
      <p
        v-for="each in view.need.advisories.filter(({ matched }) => !matched)"
        :key="each.id"
        class="small soft"
      >
        Also known for this unit, until {{ each.fixedIn }}: {{ written(each.says) }}
      </p>
      <form
        v-if="view.need.answer === 'nothing' && view.runs.length === 0"
        class="grid mt-2 gap-2.5 grid-cols-[220px_auto] justify-start"
        @submit.prevent="close"
      >
        <NInput v-model:value="name" placeholder="Your name" :input-props="{ 'aria-label': 'Your name' }" />
        <NButton attr-type="submit" :loading="busy" :disabled="!name.trim()">Close it: nothing to do</NButton>
      </form>
      <ProblemNote v-if="problem" :problem="problem" />
    </div>
  </div>
</template>
