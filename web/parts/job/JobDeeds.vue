<script setup lang="ts">
import { isPractice } from '@bench-wake/core/unit'
import type { JobView } from '@bench-wake/server'
import { NButton, NForm, NFormItem, NInput, NModal } from 'naive-ui'
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import PickDay from '../PickDay.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { dayText, whenText } from '../written'

/** What is done with the job itself: moved to another day, withdrawn, opened again; and what was. */
const { view, running } = defineProps<{ view: JobView; running: boolean }>()
const emit = defineEmits<{ done: [] }>()
const look = useLook()
const { busy, problem, ask } = useAsked()
const asked = ref<'move' | 'withdraw' | 'reopen' | null>(null)
const form = reactive({ name: look.name, reason: '', day: view.job.day as string | null })
const closed = computed(() => view.job.closedAt !== null)
const titles = { move: 'Move to another day', withdraw: 'Withdraw this job', reopen: 'Open this job again' }
const ready = computed(
  () => form.name.trim() !== '' && (asked.value === 'move' ? form.day !== null : form.reason.trim() !== ''),
)

const open = (what: 'move' | 'withdraw' | 'reopen') => {
  form.name = look.name
  form.reason = ''
  form.day = view.job.day
  problem.value = null
  asked.value = what
}
const act = () =>
  ask(async () => {
    const param = { id: view.job.id }
    const name = form.name.trim()
    look.name = name
    const reason = form.reason.trim()
    if (asked.value === 'move')
      await got(api.jobs[':id'].$patch({ param, json: { day: { to: form.day!, by: name } } }))
    if (asked.value === 'withdraw')
      await got(api.jobs[':id'].close.$post({ param, json: { name, note: reason } }))
    if (asked.value === 'reopen') await got(api.jobs[':id'].reopen.$post({ param, json: { name, reason } }))
    asked.value = null
    emit('done')
  })
/** The same job on a unit of its own that only stands in: nothing of it counts for this one. */
const practised = computed(() => isPractice(view.unit.id))
const practising = useAsked()
const router = useRouter()
const practise = () =>
  practising.ask(async () => {
    const { jobId } = await got<{ jobId: string | null }>(
      api.units[':id'].practice.$post({ param: { id: view.unit.id }, json: { jobId: view.job.id } }),
    )
    if (jobId) await router.push({ name: 'job', params: { id: jobId } })
  })
const words = {
  closed: 'Closed',
  withdrawn: 'Withdrawn',
  reopened: 'Opened again',
  moved: 'Moved',
  'ask-again': 'To be asked again',
  asked: 'Asked',
}
</script>

<template>
  <div class="pt-2 pl-7 pr-4 phone:pt-0 phone:pb-2.5 phone:px-0">
    <p class="small soft">For {{ dayText(view.job.day) }}</p>
    <p class="acts -ml-2.5">
      <NButton v-if="!closed" size="small" quaternary :disabled="running" @click="open('move')"
        >Another day</NButton
      >
      <NButton v-if="!closed && !view.runs.length" size="small" quaternary @click="open('withdraw')"
        >Withdraw it</NButton
      >
      <NButton v-if="closed" size="small" quaternary @click="open('reopen')">Open it again</NButton>
      <NButton
        v-if="!closed && !running && !view.arrived && view.driven && !practised"
        size="small"
        quaternary
        :loading="practising.busy.value"
        @click="practise"
        >Practise it on a stand-in</NButton
      >
    </p>
    <p v-if="practised" class="small soft">Practice: nothing of it counts for the unit itself.</p>
    <ProblemNote v-if="practising.problem.value" :problem="practising.problem.value" />
    <ol
      v-if="view.job.history.length"
      class="small soft mt-2 mb-0 mx-0 p-0 list-none"
      aria-label="What was done with this job"
    >
      <li v-for="deed in view.job.history" :key="deed.at">
        {{ words[deed.did]
        }}{{
          deed.did === 'moved'
            ? ` to ${dayText(deed.says)}`
            : deed.did === 'ask-again'
              ? ` on ${dayText(deed.says)}`
              : ''
        }}
        by {{ deed.by }}, {{ whenText(deed.at)
        }}{{ ['moved', 'ask-again'].includes(deed.did) || !deed.says ? '' : `: ${deed.says}` }}
      </li>
    </ol>
    <NModal
      :show="asked !== null"
      preset="card"
      :title="asked ? titles[asked] : ''"
      class="deed"
      :auto-focus="true"
      @update:show="asked = null"
    >
      <NForm @submit.prevent="act">
        <NFormItem v-if="asked === 'move'" label="Day">
          <PickDay v-model:day="form.day" />
        </NFormItem>
        <NFormItem v-else label="Reason">
          <NInput
            v-model:value="form.reason"
            :placeholder="asked === 'withdraw' ? 'Why it is not done' : 'Why it goes on'"
            :input-props="{ 'aria-label': 'Reason' }"
          />
        </NFormItem>
        <NFormItem label="Your name">
          <NInput v-model:value="form.name" placeholder="" :input-props="{ 'aria-label': 'Your name' }" />
        </NFormItem>
        <NButton type="primary" attr-type="submit" :disabled="!ready" :loading="busy">{{
          asked ? titles[asked] : ''
        }}</NButton>
        <ProblemNote v-if="problem" :problem="problem" />
      </NForm>
    </NModal>
  </div>
</template>
<style>
.deed {
  width: min(460px, calc(100vw - 32px));
}
</style>
