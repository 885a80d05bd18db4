<script setup lang="ts">
import { groupedNumber, Problem } from '@bench-wake/core/kernel'
import { linkToRecord, recordingHertz, recordingOverLink, type LogKind } from '@bench-wake/core/rounds'
import type { CaseAnswer, RecordingState } from '@bench-wake/server'
import { useIntervalFn } from '@vueuse/core'
import { NButton, NCheckbox, NProgress } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { api, got, problemOf } from '../../stores/api'
import { useBench } from '../../stores/bench'
import { useLook } from '../../stores/look'
import { familyOf } from '../family-of'
import PickOne from '../PickOne.vue'
import PortChoice from '../PortChoice.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { figureText } from './words'
import { durationText, fixed } from '../written'

/** A log recorded over the unit's own link: what it reads now, how far it is, and an end by hand. */
const { view, kind } = defineProps<{ view: CaseAnswer; kind: LogKind }>()
const emit = defineEmits<{ done: [logId: string] }>()
const bench = useBench()
const look = useLook()
const { busy, problem, ask } = useAsked()

/** The link it is recorded over, and why not. */
const over = computed(() => {
  const family = bench.families?.find(({ id }) => id === view.unit.familyId)
  return family ? linkToRecord(familyOf(family), view.state.agreement) : undefined
})
const device = computed(() => {
  const { beside, channels } = view.state.agreement
  return beside && channels.some(({ read }) => read && 'beside' in read) ? beside : null
})
const besidePort = ref<string | null>(null)
const besidePorts = computed(() =>
  (bench.ports ?? [])
    .filter(({ id, channel }) => channel === 'serial' && id !== port.value)
    .map(({ id, name }) => ({ value: id, label: name })),
)
const port = ref<string | null>(null)
const looked = ref(false)
const standIn = computed(() => bench.ports?.find(({ id }) => id === port.value)?.kind === 'stand-in')
const speeds = [
  { value: 1, label: 'real time' },
  { value: 10, label: '10×' },
  { value: 0, label: 'as fast as possible' },
]
const speed = ref(10)
const now = ref<RecordingState | null>(null)

/** How often the list can be read, by the bus of the unit's link. */
const hertz = computed(() => {
  const sources = view.state.agreement.channels.flatMap(({ read }) => read ?? [])
  return over.value?.fault === null ? recordingHertz(sources, recordingOverLink(over.value.link)) : null
})

const load = async () => {
  const before = now.value?.running ?? false
  now.value = await got<RecordingState | null>(api.cases[':id'].recording.$get({ param: { id: view.id } }))
  if (before && now.value && !now.value.running && now.value.logId) emit('done', now.value.logId)
}
onMounted(() => ask(async () => void (await Promise.all([load(), bench.loadFamilies(), bench.loadPorts()]))))
useIntervalFn(() => {
  if (now.value?.running) void load().catch(() => {})
}, 500)
const start = () =>
  ask(async () => {
    now.value = await got<RecordingState>(
      api.cases[':id'].recording.$post({
        param: { id: view.id },
        json: {
          port: port.value!,
          logKind: kind.id,
          by: look.name || 'Somebody',
          looked: true,
          ...(device.value && besidePort.value ? { besidePort: besidePort.value } : {}),
          ...(standIn.value ? { speed: speed.value as 0 | 1 | 10 } : {}),
        },
      }),
    )
  })
const stop = () =>
  ask(async () => {
    await got(api.cases[':id'].recording.stop.$post({ param: { id: view.id } }))
    await load()
  })
const failed = computed(() => (now.value?.problem ? problemOf(new Problem(now.value.problem)) : null))
</script>

<template>
  <div class="grid pt-3 gap-2.5 justify-items-start w-full line-t" data-part="record">
    <template v-if="now?.running">
      <p role="status">
        Recording: {{ groupedNumber(now.rows) }} rows, {{ fixed(now.second, 0) }} of {{ now.seconds }} s.
      </p>
      <NProgress
        type="line"
        :percentage="Math.min(100, Math.round((now.second / now.seconds) * 100))"
        :show-indicator="false"
      />
      <dl class="figures flex m-0 gap-y-1.5 gap-x-6.5 flex-wrap">
        <div v-for="channel in view.state.agreement.channels" :key="channel.name">
          <dt class="small soft">{{ channel.name }}</dt>
          <dd class="m-0 mono text-lead">
            {{ figureText(now.figures[channel.name] ?? null) || 'no answer' }} {{ channel.unit }}
          </dd>
        </div>
      </dl>
      <NButton :loading="busy" @click="stop">Stop and use what is there</NButton>
    </template>
    <template v-else-if="over?.fault === null">
      <ProblemNote v-if="failed" :problem="failed" />
      <div class="choice flex gap-3 flex-wrap w-full max-w-160">
        <PortChoice v-model="port" :unit-id="view.unit.id" />
        <PickOne
          v-if="device"
          v-model:value="besidePort"
          :label="`Port of ${device.name}`"
          :options="besidePorts"
          placeholder="Choose the port"
        />
        <PickOne v-if="standIn" v-model:value="speed" label="Speed of the recording" :options="speeds" />
      </div>
      <NCheckbox v-model:checked="looked">
        The adapter is at this unit, and everybody is clear of what it moves
      </NCheckbox>
      <p v-if="hertz" class="small soft">
        The link allows about {{ figureText(Math.round(hertz)) }} rows a second; {{ kind.minHertz }} are asked
        for. It ends by itself after {{ durationText((kind.minSeconds * 1.1 + 3) * 1000) }}.
      </p>
      <NButton :disabled="!port || !looked || (device !== null && !besidePort)" :loading="busy" @click="start"
        >Record over the link</NButton
      >
    </template>
    <p v-else-if="over" class="small soft">
      It cannot be recorded here: {{ over.fault }} (Change what was agreed).
    </p>
    <p v-else-if="over === null" class="small soft">
      This program drives no link of this equipment: log with another logger, and import the file.
    </p>
    <ProblemNote v-if="problem" :problem="problem" />
  </div>
</template>

<style scoped>
.choice > * {
  flex: 1 1 240px;
}
</style>
