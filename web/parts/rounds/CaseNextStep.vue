<script setup lang="ts">
import { dayAt, verdictOf } from '@bench-wake/core/kernel'
import { kindsLeft } from '@bench-wake/core/rounds'
import type { CaseAnswer, CaseLogRow } from '@bench-wake/server'
import { NButton, NInput, NProgress } from 'naive-ui'
import { computed, ref, shallowRef } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import { sendForm } from '../../stores/send-form'
import FilePick from '../FilePick.vue'
import FindingList from '../FindingList.vue'
import ProblemNote from '../ProblemNote.vue'
import CloseCase from './CloseCase.vue'
import RecordLog from './RecordLog.vue'
import SessionBattery from './SessionBattery.vue'
import TakeRevision from './TakeRevision.vue'
import { useAsked } from '../useAsked'
import { nextText, waitedText } from './words'
import { written } from '../written'

/** The one next thing of a case, with what it needs. */
const { view } = defineProps<{ view: CaseAnswer }>()
const emit = defineEmits<{ changed: []; job: [id: string] }>()
const look = useLook()
const { busy, problem, ask } = useAsked()
const by = computed(() => look.name || 'Somebody')

const next = computed(() => view.state.next)
const kind = computed(() => {
  const { value } = next
  return value.does === 'log' ? view.state.agreement.kinds.find(({ id }) => id === value.logKind) : undefined
})
const kindName = (id: string) => view.state.agreement.kinds.find((each) => each.id === id)?.name ?? id
/** An answer can come while the round is still out, and a base image at the beginning. */
const receives = computed(() => next.value.does === 'receive' || next.value.does === 'wait')

const share = ref<number | null>(null)
const write = () =>
  ask(async () => {
    const day = dayAt(Date.now())
    const { jobId } = await got<{ jobId: string }>(
      api.cases[':id'].job.$post({ param: { id: view.id }, json: { by: by.value, day } }),
    )
    emit('job', jobId)
  })

// A log of the kind that is asked for.
const last = shallowRef<CaseLogRow | null>(null)
const takeLog = (file: File) =>
  ask(async () => {
    if (next.value.does !== 'log') return
    try {
      last.value = await sendForm<CaseLogRow>(
        `/api/cases/${encodeURIComponent(view.id)}/logs`,
        file,
        { kind: next.value.logKind, by: by.value },
        (done) => (share.value = done),
      )
    } finally {
      share.value = null
    }
    emit('changed')
  })
const practise = () =>
  ask(async () => {
    if (next.value.does !== 'log') return
    last.value = await got<CaseLogRow>(
      api.cases[':id']['stand-in'].log.$post({
        param: { id: view.id },
        json: { logKind: next.value.logKind, by: by.value },
      }),
    )
    emit('changed')
  })

const recorded = (logId: string) =>
  ask(async () => {
    const { logs } = await got<CaseAnswer>(api.cases[':id'].$get({ param: { id: view.id } }))
    last.value = logs.find(({ id }) => id === logId) ?? null
    emit('changed')
  })
/** The kinds that are still to be logged in this round. */
const kindsAhead = computed(() => {
  const round = view.state.rounds.at(-1)
  const left = round ? kindsLeft(view.state.agreement, round) : []
  return view.state.agreement.kinds.filter(({ id }) => left.includes(id))
})

const symptoms = ref('')
const send = () =>
  ask(async () => {
    await got(
      api.cases[':id'].send.$post({
        param: { id: view.id },
        json: { symptoms: symptoms.value, by: by.value },
      }),
    )
    symptoms.value = ''
    emit('changed')
  })
const answer = () =>
  ask(async () => {
    await got(api.cases[':id']['stand-in'].answer.$post({ param: { id: view.id }, json: { by: by.value } }))
    emit('changed')
  })

const waited = computed(() => (next.value.does === 'wait' ? Date.now() - next.value.sinceMs : 0))
const sentRound = computed(() => view.state.rounds.at(-1)?.sent ?? null)
</script>

<template>
  <section class="grid py-1 pl-4.5 gap-3 bar-brass justify-items-start max-w-215" aria-label="What is next">
    <p class="text-large leading-[1.25]">{{ nextText(next, kindName) }}</p>
    <ProblemNote v-if="problem" :problem="problem" />
    <NProgress
      v-if="share !== null"
      type="line"
      :percentage="Math.round(share * 100)"
      :show-indicator="false"
    />

    <template v-if="next.does === 'write'">
      <p class="soft">
        A normal run, with every gate. Engine off, key on; what cannot have changed is not asked again.
      </p>
      <NButton type="primary" size="large" :loading="busy" @click="write">Open the job</NButton>
    </template>

    <template v-if="next.does === 'log' && kind">
      <p v-if="kind.asks">{{ kind.asks }}</p>
      <p class="small soft">
        At least {{ kind.minSeconds }} s, {{ kind.minHertz }} rows a second, with
        {{ view.state.agreement.channels.map(({ name }) => name).join(', ') }}.
      </p>
      <p v-if="kind.caution" class="caution">{{ written(kind.caution) }}</p>
      <div class="acts gap-3">
        <FilePick label="Log file" accept=".csv,.txt,.log" @picked="takeLog">
          <NButton type="primary" size="large" :loading="busy">Import the log</NButton>
        </FilePick>
        <NButton v-if="view.practice" size="large" :loading="busy" @click="practise"
          >Drive the stand-in</NButton
        >
      </div>
      <RecordLog :key="kind.id" :view="view" :kind="kind" @done="recorded" />
      <SessionBattery :kinds="kindsAhead" />
      <div v-if="last && verdictOf(last.findings) !== 'go'" role="status">
        <p>
          <b>{{ last.name }}</b>
          {{ ['stop', 'hold'].includes(verdictOf(last.findings)) ? 'does not count:' : '' }}
        </p>
        <FindingList :findings="last.findings" />
      </div>
    </template>

    <template v-if="next.does === 'send'">
      <p class="soft">
        The package holds the logs with their pictures, what the image changed, what changed on the machine,
        and this:
      </p>
      <NInput
        v-model:value="symptoms"
        type="textarea"
        placeholder="What it does now: a line each"
        :input-props="{ 'aria-label': 'What it does now' }"
        :maxlength="4000"
      />
      <NButton type="primary" size="large" :loading="busy" @click="send">Make the package</NButton>
    </template>

    <template v-if="next.does === 'wait'">
      <p class="soft">
        Waiting for {{ waitedText(waited) }}.
        <a v-if="sentRound" :href="`/api/cases/${view.id}/packages/${sentRound.sha256}`">Save the package</a>
        and send it as you and {{ view.state.agreement.calibrator }} usually do.
      </p>
      <NButton v-if="view.practice" size="large" :loading="busy" @click="answer"
        >Let the stand-in calibrator answer</NButton
      >
    </template>

    <TakeRevision v-if="receives" :view="view" @taken="emit('changed')" />
    <CloseCase :case-id="view.id" @closed="emit('changed')" />
  </section>
</template>
