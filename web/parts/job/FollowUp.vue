<script setup lang="ts">
import { askAgainOn } from '@bench-wake/core/job'
import type { JobView } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { dayText } from '../written'

/** Whether what was reported is gone: asked of whoever uses the unit, on the day that was set when the job was closed. */
const { view } = defineProps<{
  view: JobView
  /** True in a list, where the unit is named. */
  named?: boolean
}>()
const emit = defineEmits<{ done: [] }>()
const look = useLook()
const name = ref(look.name)
const note = ref('')
const { busy, problem, ask } = useAsked()
const day = computed(() => askAgainOn(view.job.history))
const said = computed(
  () => view.job.symptoms.map(({ says }) => `“${says.replace(/\.$/, '')}”`).join(', ') || view.job.reason,
)
const answer = (now: 'gone' | 'there') =>
  ask(async () => {
    look.name = name.value.trim()
    await got(
      api.jobs[':id'].asked.$post({
        param: { id: view.job.id },
        json: { name: name.value.trim(), now, note: note.value },
      }),
    )
    emit('done')
  }, 'The answer is kept with the job.')
</script>

<template>
  <div v-if="day" class="grid py-3 gap-3 grid-cols-[16px_minmax(0,1fr)] line-b" :data-again="view.job.id">
    <VerdictMark verdict="hold" quiet />
    <div>
      <p>
        <RouterLink v-if="named" :to="{ name: 'job', params: { id: view.job.id } }">{{
          view.unit.name
        }}</RouterLink>
        Is it gone? {{ said }}
        <small class="soft block">to be asked on {{ dayText(day) }}</small>
      </p>
      <div class="acts grid mt-2 gap-2.5 grid-cols-[200px_minmax(0,1fr)_auto_auto] phone:grid-cols-1">
        <NInput v-model:value="name" placeholder="Your name" :input-props="{ 'aria-label': 'Your name' }" />
        <NInput
          v-model:value="note"
          placeholder="What was said"
          :input-props="{ 'aria-label': 'What was said' }"
        />
        <NButton :disabled="!name.trim()" :loading="busy" @click="answer('gone')">It is gone</NButton>
        <NButton :disabled="!name.trim()" :loading="busy" @click="answer('there')">It is still there</NButton>
      </div>
      <ProblemNote v-if="problem" :problem="problem" />
    </div>
  </div>
</template>
