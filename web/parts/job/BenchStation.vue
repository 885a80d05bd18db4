<script setup lang="ts">
import { dayAt, heaviestFirst, verdictAfter, verdictOf, type Verdict } from '@bench-wake/core/kernel'
import { onHardware } from '@bench-wake/core/family'
import { overtaken, standing as stillStanding } from '@bench-wake/core/job'
import { benchGates, type Adapter, type Gate } from '@bench-wake/core/ready'
import { taskText } from '@bench-wake/core/run'
import type { JobView } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, onMounted, provide, ref, shallowRef, toRaw } from 'vue'
import { familyOf } from '../family-of'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import { useLive } from '../../stores/live'
import FindingList from '../FindingList.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { benchDesk, useBenchSay } from './bench-inputs'
import BenchKit from './BenchKit.vue'
import BenchLaptop from './BenchLaptop.vue'
import BenchPart from './BenchPart.vue'
import BenchPower from './BenchPower.vue'
import KeptSettings from './KeptSettings.vue'
import LinkParts from './LinkParts.vue'
import PlanList from './PlanList.vue'
import PathList from './PathList.vue'
import ReleaseDialog from './ReleaseDialog.vue'
import PickOne from '../PickOne.vue'
import PlugNow from '../PlugNow.vue'
import PortChoice from '../PortChoice.vue'
import VerdictMark from '../VerdictMark.vue'
import WhatItAsks from './WhatItAsks.vue'
import { written } from '../written'

const port = defineModel<string | null>('port', { required: true })
const speed = defineModel<number>('speed', { required: true })
const { view, gates, busy } = defineProps<{ view: JobView; gates: Gate[] | null; busy: boolean }>()
const emit = defineEmits<{ start: []; said: [] }>()

const speeds = [
  { value: 1, label: 'real time' },
  { value: 10, label: '10×' },
  { value: 60, label: '60×' },
  { value: 0, label: 'as fast as possible' },
]
const desk = useBenchSay(view.job.id, view.bench, () => emit('said'))
provide(benchDesk, desk)
const adapters = shallowRef<Adapter[]>([])
const drawer = useAsked()
onMounted(() => drawer.ask(async () => (adapters.value = await got<Adapter[]>(api.adapters.$get()))))

const bench = useBench()
const live = useLive()

const chosen = computed(() => bench.ports?.find(({ id }) => id === port.value))
const hop = computed(() => view.next)
const family = computed(() => bench.families?.find(({ id }) => id === view.unit.familyId))
/** As this unit has it: the hardware that was read selects the link. */
const read = computed(() =>
  family.value ? onHardware(familyOf(family.value), view.unit.facts.hardwareMajor) : null,
)
/** What a meter shows at the chosen port. */
const metered = computed(() =>
  chosen.value?.hasMeter ? (gates?.find(({ id }) => id === 'power')?.numbers['measuredVolts'] ?? null) : null,
)
/** The bench as it is said here, judged at every key by the same function as on the server. */
const here = computed<Gate[]>(() =>
  read.value && drawer.reading.value === false
    ? benchGates({
        family: read.value,
        said: desk.said.value,
        stretches: toRaw(view.stretches),
        metered: metered.value,
        adapters: adapters.value,
        workshopRules: view.workshopRules,
        kit: view.kit,
        day: view.job.day,
        today: dayAt(Date.now()),
        now: Date.now(),
        standIn: view.driven && chosen.value?.kind === 'stand-in',
        underWay: live.running
          .filter(({ state }) => state.facts.job.id !== view.job.id)
          .map(({ state, leftMs }) => ({
            name: state.facts.unit.name,
            leftMs: state.facts.speed ? leftMs / state.facts.speed : 0,
          })),
      })
    : [],
)
const all = computed(() => (gates ?? []).map((gate) => here.value.find(({ id }) => id === gate.id) ?? gate))
const gateOf = (id: string) => all.value.find((gate) => gate.id === id)
const fitName = computed(() => (view.job.task === 'write' ? 'Fit and port' : 'Task and port'))
/** What unit, image, need and port say, as one part. */
const standing = computed<Gate | undefined>(() => {
  const ids = new Set(['need', 'task', 'fit', 'link', 'original', 'port'])
  const own = all.value.filter(({ id }) => ids.has(id))
  const said = own.flatMap((gate) => gate.findings)
  const verdict = own.some((gate) => gate.verdict === 'unknown') ? 'unknown' : verdictOf(said)
  return own.length ? { id: 'fit', name: fitName.value, verdict, findings: said, numbers: {} } : undefined
})
const findings = computed(() => all.value.flatMap((gate) => gate.findings))
/** Holds that were released for this job and still say the same; the others are asked anew. */
const releases = computed(() => stillStanding(view.job.releases, findings.value))
const passed = computed(() => overtaken(view.job.releases, findings.value))
const verdict = computed<Verdict>(() =>
  !gates || all.value.some((gate) => gate.verdict === 'unknown')
    ? 'unknown'
    : verdictAfter(findings.value, releases.value),
)
const open = computed(() => verdict.value === 'go' || verdict.value === 'note')
/** What shuts the gate, heaviest first: the first is the one next thing. */
const shut = computed(() => {
  const released = new Set(releases.value.map(({ rule }) => rule))
  return heaviestFirst(findings.value).filter(
    ({ level, rule }) => level === 'stop' || (level === 'hold' && !released.has(rule)),
  )
})
const firstPart = computed(
  () => all.value.find((gate) => shut.value[0] && gate.findings.includes(shut.value[0]))?.id ?? null,
)
const component = computed(
  () => family.value?.components.find(({ id }) => id === hop.value?.componentId)?.name ?? '',
)
/** What goes in with the next entry: one component by its name, several by how many they are. */
const count = computed(() => view.stays[0]?.hops.length ?? 1)
const together = computed(() => (count.value > 1 ? `${count.value} components` : component.value))
/** Which plan this is, where it is not the only one. */
const ofWhich = computed(() => {
  if ((view.fit?.path.length ?? 0) < 2) return ''
  return count.value > 1 ? ' of the next entry' : ` of the next write, ${hop.value?.imageName}`
})
const says = computed(() => {
  if (!gates) return 'Judging the bench…'
  if (open.value && view.job.task !== 'write')
    return view.job.task === 'chip'
      ? `Ready: ${desk.say.chip?.label ?? 'the chip'} goes in.`
      : `Ready: ${taskText[view.job.task].toLowerCase()}. Nothing is written.`
  if (open.value) return `Ready: ${together.value} ${hop.value?.from ?? 'not known'} to ${hop.value?.to}.`
  if (verdict.value === 'hold') return 'Held. Mend it, or release it by name.'
  if (verdict.value === 'stop') return 'Stop. Not with the bench like this.'
  const silent = all.value.find((gate) => gate.verdict === 'unknown')
  return silent ? `Not known yet: ${silent.name}. ${silent.unjudged?.says ?? ''}`.trim() : 'Not known yet.'
})
const flushing = ref(false)
/** Starts when the server knows what was said here. */
const begin = async () => {
  flushing.value = true
  await desk.flush().finally(() => (flushing.value = false))
  emit('start')
}
/** What a press on Start waits for. */
const waits = computed(() => {
  if (flushing.value) return 'What was said of this bench is being kept.'
  if (!busy) return null
  const measures = chosen.value?.hasMeter ? ' and the supply is measured at its meter' : ''
  return `The bench is judged once more${measures}; nothing goes to the unit yet.`
})
const dialog = ref<InstanceType<typeof ReleaseDialog>>()
const ask = (rule: string) =>
  dialog.value?.ask(
    heaviestFirst(findings.value).find((each) => each.rule === rule),
    passed.value.find((each) => each.rule === rule)?.reason,
  )
const keeping = useAsked()
const takeBack = (rule: string) =>
  keeping.ask(async () => {
    await got(api.jobs[':id'].releases[':rule'].$delete({ param: { id: view.job.id, rule } }))
    emit('said')
  })
</script>

<template>
  <p class="where">
    {{ view.job.task === 'write' ? 'Bench, before the first byte' : `Bench. ${taskText[view.job.task]}` }}
  </p>
  <h2 class="say calm"><VerdictMark :verdict="verdict" :size="24" /> {{ says }}</h2>
  <template v-if="shut[0]">
    <FindingList :findings="[shut[0]]" :releases="releases" releasable class="mb-0.5" @release="ask" />
    <p v-if="shut.length > 1" class="small soft mb-3 ml-6.5">
      {{ shut.length - 1 }} more below, each in its part.
    </p>
  </template>
  <div v-if="view.driven" class="acts">
    <PortChoice v-model="port" :unit-id="view.unit.id" />
    <PickOne
      v-if="chosen?.kind === 'stand-in'"
      v-model:value="speed"
      class="speed w-50 max-w-full"
      label="Speed of the stand-in"
      :options="speeds"
    />
    <NButton
      data-primary
      type="primary"
      size="large"
      :disabled="!open || !port"
      :loading="busy || flushing"
      @click="begin"
    >
      Start the run
    </NButton>
    <PlugNow @found="port = $event" />
  </div>
  <div v-else-if="view.byHand" class="acts">
    <NButton data-primary type="primary" size="large" :disabled="!open" :loading="busy" @click="begin">
      Start the run
    </NButton>
    <span class="soft">{{
      view.card
        ? `By hand: the unit takes its files from the ${view.card.medium} by itself.`
        : 'By hand, step by step: the chip is changed in its socket.'
    }}</span>
  </div>
  <ReleaseDialog ref="dialog" :job-id="view.job.id" @released="emit('said')" />
  <p v-if="waits" class="soft" role="status">{{ waits }}</p>
  <ul
    v-if="releases.length || passed.length"
    class="mt-0 mb-3 mx-0 p-0 list-none"
    aria-label="Released for this job"
  >
    <li
      v-for="each in releases"
      :key="each.rule"
      class="grid py-1 gap-3 grid-cols-[14px_minmax(0,1fr)_auto] items-center"
    >
      <VerdictMark verdict="note" quiet />
      <span>{{ written(each.says) }} Released by {{ each.name }}: {{ each.reason }}</span>
      <NButton size="small" quaternary :loading="keeping.busy.value" @click="takeBack(each.rule)"
        >Undo</NButton
      >
    </li>
    <li
      v-for="each in passed"
      :key="each.rule"
      class="grid py-1 gap-3 grid-cols-[14px_minmax(0,1fr)_auto] items-center"
    >
      <VerdictMark verdict="hold" quiet />
      <span
        >{{ each.name }} released another state of this: “{{ written(each.says) }}” It says something else
        now, and is asked anew.</span
      >
    </li>
  </ul>
  <ProblemNote v-if="keeping.problem.value" :problem="keeping.problem.value" />
  <p v-if="family?.entry.some(({ script }) => script)" class="coach">
    <RouterLink class="inline-block min-h-11 leading-11" :to="{ name: 'entry', params: { id: view.job.id } }"
      >Into the bootloader, with the coach</RouterLink
    >
  </p>
  <ProblemNote v-if="desk.saving.problem.value" :problem="desk.saving.problem.value" />
  <ProblemNote v-if="drawer.problem.value" :problem="drawer.problem.value" />
  <template v-if="family && read && view.stretches.length">
    <BenchPart
      :name="fitName"
      :gate="standing"
      :first="['need', 'task', 'fit', 'link', 'original', 'port'].includes(firstPart ?? '')"
      :releases="releases"
      :shown="shut[0]"
      @release="ask"
    />
    <BenchPart
      name="Supply"
      :gate="gateOf('power')"
      :first="firstPart === 'power'"
      :releases="releases"
      :shown="shut[0]"
      @release="ask"
    >
      <BenchPower :view="view" :family="family" :metered="metered" />
    </BenchPart>
    <LinkParts
      :view="view"
      :family="read"
      :gates="all"
      :adapters="adapters"
      :first-part="firstPart"
      :releases="releases"
      :shown="shut[0]"
      :asked="view.driven"
      @release="ask"
      @said="$emit('said')"
    />
    <BenchPart
      name="Kit"
      :gate="gateOf('kit')"
      :first="firstPart === 'kit'"
      :releases="releases"
      :shown="shut[0]"
      @release="ask"
    >
      <BenchKit :view="view" @said="$emit('said')" />
    </BenchPart>
    <BenchPart
      name="Laptop"
      :gate="gateOf('laptop')"
      :first="firstPart === 'laptop'"
      :releases="releases"
      :shown="shut[0]"
      @release="ask"
    >
      <BenchLaptop />
    </BenchPart>
    <ul v-if="desk.say.sums?.length" class="m-0 py-3 pl-4.5 pr-0 line-t" aria-label="Calculated for this job">
      <li v-for="sum in desk.say.sums" :key="sum.at">{{ written(sum.says) }}</li>
    </ul>
  </template>
  <PathList
    v-if="view.fit && (view.fit.path.length > 1 || !view.plan.length)"
    :fit="view.fit"
    :family="family"
    :stays="view.stays"
  />
  <PlanList v-if="view.plan.length" :steps="view.plan" :time="view.time" :of="ofWhich" />
  <KeptSettings
    v-if="family?.backup?.settings && view.job.task === 'write'"
    :job-id="view.job.id"
    :settings="family.backup.settings"
    :desk="desk"
  />
  <WhatItAsks v-if="family?.asks && view.job.task === 'write'" :asks="family.asks" />
  <p v-if="view.plan.length" class="small">
    <RouterLink :to="{ name: 'plan', params: { id: view.job.id } }">The whole plan, for print</RouterLink>
  </p>
</template>
