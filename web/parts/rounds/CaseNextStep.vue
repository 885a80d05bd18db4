<script setup lang="ts">
import { verdictOf, type Finding } from '@bench-wake/core/kernel'
import { kindsLeft } from '@bench-wake/core/rounds'
import type { AddedAnswer, CaseAnswer, CaseLogRow, ListedDefinition, ShelfImage } from '@bench-wake/server'
import { NButton, NInput, NProgress } from 'naive-ui'
import { computed, onMounted, ref, watch } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import { sendForm } from '../../stores/send-form'
import FindingList from '../FindingList.vue'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import DefinitionList from './DefinitionList.vue'
import RecordLog from './RecordLog.vue'
import SessionBattery from './SessionBattery.vue'
import { useAsked } from '../useAsked'
import { nextText, waitedText } from './words'

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

// An image of an answer.
const images = ref<ShelfImage[]>([])
const definitions = ref<ListedDefinition[]>([])
const imageId = ref<string | null>(null)
const definitionId = ref<string | null>(view.state.rounds.at(-1)?.definitionId ?? null)
const remarks = ref('')
const despite = ref('')
const findings = ref<Finding[]>([])
const share = ref<number | null>(null)
async function loadChoices(): Promise<void> {
  const [all, known] = await Promise.all([
    got<ShelfImage[]>(api.images.$get()),
    got<ListedDefinition[]>(api.definitions.$get()),
  ])
  images.value = all.filter(({ identity }) => !identity || identity.familyId === view.unit.familyId)
  definitions.value = known
  definitionId.value ??= known[0]?.id ?? null
}
onMounted(() => receives.value && ask(loadChoices))
watch(receives, (now) => now && void ask(loadChoices))
watch([imageId, definitionId], async () => {
  findings.value = []
  despite.value = ''
  if (imageId.value === null) return
  await ask(async () => {
    findings.value = await got<Finding[]>(
      api.cases[':id'].revisions.look.$post({
        param: { id: view.id },
        json: { imageId: imageId.value!, definitionId: definitionId.value },
      }),
    )
  })
})
const imageOptions = computed(() =>
  images.value.map(({ id, name, identity }) => ({
    value: id,
    label: identity?.version ? `${name}, ${identity.version}` : name,
  })),
)
const definitionOptions = computed(() => [
  ...definitions.value.map(({ id, name, tables }) => ({ value: id, label: `${name} (${tables} tables)` })),
  { value: '', label: 'came without a definition' },
])
const definitionChoice = computed({
  get: () => definitionId.value ?? '',
  set: (id: string) => (definitionId.value = id === '' ? null : id),
})
const verdict = computed(() => verdictOf(findings.value))
const address = ref('')
const takeFile = (event: Event) =>
  ask(async () => {
    const input = event.target as HTMLInputElement
    const file = input.files?.[0]
    if (!file) return
    const fields = {
      from: view.state.agreement.calibrator,
      ...(address.value.trim() ? { address: address.value.trim() } : {}),
    }
    try {
      const added = await sendForm<AddedAnswer>('/api/images', file, fields, (done) => (share.value = done))
      await loadChoices()
      imageId.value = added.images[0]!.id
    } finally {
      share.value = null
      input.value = ''
    }
  })
const takeDefinition = (event: Event) =>
  ask(async () => {
    const input = event.target as HTMLInputElement
    const file = input.files?.[0]
    if (!file) return
    try {
      const text = await file.text()
      // A list of tables is no document yet: what it lacks is asked for.
      if (!/^\s*\{/.test(text)) {
        tableList.value = { name: file.name, list: text }
        return
      }
      const json = JSON.parse(text) as Record<string, unknown>
      const { id } = await got<ListedDefinition>(api.definitions.$post({ json }))
      await loadChoices()
      definitionId.value = id
    } finally {
      input.value = ''
    }
  })
const tableList = ref<{ name: string; list: string } | null>(null)
const listSaved = (id: string) =>
  ask(async () => {
    tableList.value = null
    await loadChoices()
    definitionId.value = id
  })
const take = () =>
  ask(async () => {
    await got(
      api.cases[':id'].revisions.$post({
        param: { id: view.id },
        json: {
          imageId: imageId.value!,
          definitionId: definitionId.value,
          remarks: remarks.value,
          by: by.value,
          ...(verdict.value === 'hold' ? { despite: despite.value.trim() } : {}),
        },
      }),
    )
    imageId.value = null
    remarks.value = ''
    emit('changed')
  })

const write = () =>
  ask(async () => {
    const day = new Date().toISOString().slice(0, 10)
    const { jobId } = await got<{ jobId: string }>(
      api.cases[':id'].job.$post({ param: { id: view.id }, json: { by: by.value, day } }),
    )
    emit('job', jobId)
  })

// A log of the kind that is asked for.
const last = ref<CaseLogRow | null>(null)
const takeLog = (event: Event) =>
  ask(async () => {
    const input = event.target as HTMLInputElement
    const file = input.files?.[0]
    if (!file || next.value.does !== 'log') return
    try {
      last.value = await sendForm<CaseLogRow>(
        `/api/cases/${encodeURIComponent(view.id)}/logs`,
        file,
        { kind: next.value.logKind, by: by.value },
        (done) => (share.value = done),
      )
    } finally {
      share.value = null
      input.value = ''
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
const sent = ref<{ sha256: string; name: string } | null>(null)
const send = () =>
  ask(async () => {
    sent.value = await got<{ sha256: string; name: string }>(
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

const closing = ref(false)
const outcome = ref<'reached' | 'mechanical' | 'given-up'>('reached')
const closingSays = ref('')
const outcomes = [
  { value: 'reached' as const, label: 'The aim is reached' },
  { value: 'mechanical' as const, label: 'A mechanical fault was found' },
  { value: 'given-up' as const, label: 'Given up' },
]
const close = () =>
  ask(async () => {
    await got(
      api.cases[':id'].close.$post({
        param: { id: view.id },
        json: { by: by.value, outcome: outcome.value, says: closingSays.value.trim() },
      }),
    )
    emit('changed')
  })
const waited = computed(() => (next.value.does === 'wait' ? Date.now() - next.value.sinceMs : 0))
const sentRound = computed(() => view.state.rounds.at(-1)?.sent ?? null)
const pick = (event: MouseEvent) =>
  (event.currentTarget as HTMLElement)
    .parentElement!.querySelector<HTMLInputElement>('input[type=file]')!
    .click()
</script>

<template>
  <section class="next" aria-label="What is next">
    <p class="large">{{ nextText(next, kindName) }}</p>
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
      <p v-if="kind.caution" class="caution">{{ kind.caution }}</p>
      <div class="acts">
        <span>
          <input
            class="visually-hidden"
            type="file"
            accept=".csv,.txt,.log"
            tabindex="-1"
            aria-label="Log file"
            @change="takeLog"
          />
          <NButton type="primary" size="large" :loading="busy" @click="pick">Import the log</NButton>
        </span>
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

    <form v-if="receives" class="take" @submit.prevent="take">
      <h3>{{ next.does === 'wait' ? 'The answer came' : 'The image that came' }}</h3>
      <div class="pair">
        <PickOne
          v-model:value="imageId"
          label="Image"
          :options="imageOptions"
          filterable
          placeholder="Choose an image of the shelf"
        />
        <span>
          <input
            class="visually-hidden"
            type="file"
            tabindex="-1"
            aria-label="Image file"
            @change="takeFile"
          />
          <NButton @click="pick">Import a file</NButton>
        </span>
        <NInput
          v-model:value="address"
          placeholder="0x… of a plain binary"
          class="mono short"
          :input-props="{ 'aria-label': 'Address of a plain binary' }"
        />
      </div>
      <div class="pair">
        <PickOne
          v-model:value="definitionChoice"
          label="Definition"
          :options="definitionOptions"
          filterable
        />
        <span>
          <input
            class="visually-hidden"
            type="file"
            accept=".json,.csv,.txt"
            tabindex="-1"
            aria-label="Definition file"
            @change="takeDefinition"
          />
          <NButton @click="pick">Import a definition</NButton>
        </span>
      </div>
      <NInput
        v-model:value="remarks"
        type="textarea"
        placeholder="What was written with it"
        :input-props="{ 'aria-label': 'Remarks of the calibrator' }"
        :maxlength="4000"
      />
      <FindingList v-if="findings.length > 0" :findings="findings" />
      <NInput
        v-if="verdict === 'hold'"
        v-model:value="despite"
        placeholder="Why it is taken in all the same"
        :input-props="{ 'aria-label': 'Why it is taken in all the same' }"
        :maxlength="400"
      />
      <NButton
        attr-type="submit"
        :type="next.does === 'receive' ? 'primary' : 'default'"
        size="large"
        :loading="busy"
        :disabled="
          imageId === null ||
          verdict === 'stop' ||
          verdict === 'unknown' ||
          (verdict === 'hold' && !despite.trim())
        "
        >Begin round {{ view.state.rounds.length + 1 }}</NButton
      >
    </form>

    <DefinitionList
      v-if="tableList"
      :key="tableList.name"
      v-bind="tableList"
      @saved="listSaved"
      @cancel="tableList = null"
    />
    <p v-if="!closing" class="end">
      <button class="textlike" type="button" @click="closing = true">Close the case</button>
    </p>
    <form v-else class="take" @submit.prevent="close">
      <h3>Close the case</h3>
      <PickOne v-model:value="outcome" label="What came of it" :options="outcomes" />
      <NInput
        v-model:value="closingSays"
        placeholder="What it does now, what was found"
        :input-props="{ 'aria-label': 'What came of it, in words' }"
        :maxlength="1000"
      />
      <div class="acts">
        <NButton attr-type="submit" type="primary" :loading="busy" :disabled="!closingSays.trim()"
          >Close the case</NButton
        >
        <NButton quaternary @click="closing = false">Cancel</NButton>
      </div>
    </form>
  </section>
</template>

<style scoped>
.next {
  border-left: 3px solid var(--brass);
  padding: 4px 0 4px 18px;
  display: grid;
  gap: 12px;
  justify-items: start;
  max-width: 860px;
}
.large {
  font-size: 24px;
  line-height: 1.25;
}
.acts,
.pair {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
.pair > :first-child {
  flex: 1 1 320px;
}
.take {
  display: grid;
  gap: 12px;
  justify-items: start;
  width: 100%;
}
.take > * {
  max-width: 100%;
}
.pair,
.take > .n-input {
  width: 100%;
}
.short {
  width: 200px;
}
.end {
  margin-top: -6px;
}
</style>
