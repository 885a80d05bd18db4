<script setup lang="ts">
import type { Gate } from '@bench-wake/core/ready'
import { meaningOf, openable } from '@bench-wake/core/job'
import type { RunState, StationId } from '@bench-wake/core/run'
import type { JobView } from '@bench-wake/server'
import { useDebounceFn, useEventListener, useIntervalFn, useWakeLock } from '@vueuse/core'
import { computed, nextTick, onMounted, reactive, ref, shallowRef, watch } from 'vue'
import { NButton } from 'naive-ui'
import { useRoute } from 'vue-router'
import BenchStation from '../parts/job/BenchStation.vue'
import ChipStation from '../parts/job/ChipStation.vue'
import CloseStation from '../parts/job/CloseStation.vue'
import JobDeeds from '../parts/job/JobDeeds.vue'
import StillFree from '../parts/job/StillFree.vue'
import ImageStation from '../parts/job/ImageStation.vue'
import JobStations from '../parts/job/JobStations.vue'
import NeedNote from '../parts/job/NeedNote.vue'
import LiveStation from '../parts/job/LiveStation.vue'
import UnitStation from '../parts/job/UnitStation.vue'
import RunSidebar from '../parts/job/RunSidebar.vue'
import RoundsNow from '../parts/rounds/RoundsNow.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { jobStationsOf } from '../parts/job/job-stations-of'
import { useBenchSay } from '../parts/job/bench-inputs'
import { newest } from '../parts/newest'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useLive } from '../stores/live'

const id = String(useRoute().params['id'])
const bench = useBench()
const live = useLive()
const loading = useAsked()
const starting = useAsked()
const view = shallowRef<JobView | null>(null)
const gates = shallowRef<Gate[] | null>(null)
const chosen = reactive({
  port: null as string | null,
  speed: 1,
})

const load = newest(
  () => got<JobView>(api.jobs[':id'].$get({ param: { id } })),
  (now) => {
    view.value = now
    const last = now.runs[0]
    if (last) {
      chosen.port ??= last.state.facts.port.id
      if (last.state.outcome === 'running') live.follow(last.id)
    }
  },
)
onMounted(() => loading.ask(() => Promise.all([load(), bench.loadFamilies()])))

const family = computed(() => bench.families?.find((each) => each.id === view.value?.unit.familyId))
const lastRun = computed(() => view.value?.runs[0] ?? null)
/** The stream's state where there is one, else what was loaded. */
const run = computed<RunState | null>(() => {
  const last = lastRun.value
  // A proved hop with another after it: the job is at the bench again.
  if (!last || (last.state.outcome === 'proved' && view.value && !view.value.arrived)) return null
  const streamed = live.followed.get(last.id)?.state
  // What was said after the end is no part of the stream any more: the newer of the two counts.
  return streamed && streamed.seq >= last.state.seq ? streamed : last.state
})
const followed = computed(() => (lastRun.value ? live.followed.get(lastRun.value.id) : undefined))

const stations = computed(() => (view.value ? jobStationsOf(view.value, run.value, Date.now()) : []))
const stands = computed(() => stations.value.find(({ state }) => state === 'open')?.id ?? 'close')
/** A station that a person opened again; null while the screen shows where the job stands. */
const again = ref<StationId | null>(null)
const open = computed(() => again.value ?? stands.value)
watch([stands, () => run.value?.outcome === 'running'], ([, running], [, ran]) => {
  if (running !== ran) again.value = null
})
watch(
  () => view.value?.job.closedAt,
  () => (again.value = null),
)
const free = computed(() =>
  openable(stations.value, {
    closed: view.value?.job.closedAt !== null,
    run: run.value,
    opened: again.value,
  }),
)
const meaning = computed(() => (again.value ? meaningOf(again.value, run.value) : ''))

// What the gates say follows every change of what they rest on.
const readGates = newest(
  () =>
    got<{ gates: Gate[] }>(
      api.jobs[':id'].ready.$get({
        param: { id },
        query: {
          ...(chosen.port && view.value?.driven ? { port: chosen.port } : {}),
        },
      }),
    ),
  (now) => (gates.value = now.gates),
)
/** What stands there is no judgement of what is there now: it is asked for again, as long as the screen is open. */
let unjudged = false
const judge = useDebounceFn(async () => {
  if (open.value !== 'bench' && run.value?.outcome === 'running') return
  unjudged = await readGates().then(
    () => false,
    () => true,
  )
}, 120)
useIntervalFn(() => unjudged && judge(), 2000)
watch([() => chosen.port, open, view], judge)
/** The bench was told something new: kit and gates follow. */
const said = () => void load().catch(() => {})
/** Of the running job: settings are kept at their question too. */
const desk = computed(() => (view.value ? useBenchSay(id, view.value.bench, said) : undefined))

const start = () =>
  starting.ask(async () => {
    const made = await got<{ id: string }>(
      api.runs.$post({
        json: {
          jobId: id,
          ...(view.value?.byHand ? {} : { port: chosen.port!, speed: chosen.speed as 0 | 1 | 10 | 60 }),
        },
      }),
    )
    live.follow(made.id)
    again.value = null
    await load()
  })

// A run that was started on another device is this job's as well.
watch(
  () => live.running.find(({ state }) => state.facts.job.id === id)?.id,
  (started) => {
    if (started && started !== lastRun.value?.id) void load().catch(() => {})
  },
)
watch(
  () => run.value?.outcome,
  (outcome, before) => {
    if (before === 'running' && outcome !== 'running') void load()
  },
)

/** The one next thing takes the focus when a station opens, so that Enter or Space does it. */
const primary = () => document.querySelector<HTMLElement>('.deck [data-primary]:not(:disabled)')
/** Where the next thing cannot be done yet, its first field. */
const firstField = () =>
  // Who says it comes before what is said.
  [...document.querySelectorAll<HTMLInputElement>('.deck form[data-close] input[name=name]')].find(
    ({ value }) => !value,
  ) ??
  document.querySelector<HTMLElement>('.deck [data-closing] [data-next]:not(:disabled)') ??
  document.querySelector<HTMLElement>(
    '.deck .part[data-first] [data-inside] :is(input:not(:disabled, :checked), [role=combobox], [role=checkbox][tabindex="0"]:not([aria-checked=true]))',
  ) ??
  [...document.querySelectorAll<HTMLInputElement>('.deck form input')].find(
    ({ name, value, checked, type, disabled }) =>
      !disabled && (name === 'name' ? !value : type === 'checkbox' ? !checked : true),
  )
watch(
  [
    open,
    () => run.value?.prompt?.prompt,
    () => run.value?.outcome,
    () => run.value?.aftercare.length,
    () => gates.value?.map(({ verdict }) => verdict).join(),
    () => chosen.port,
  ],
  () => focusNext(),
  { flush: 'post' },
)
let opened = false
/** A station that opens above what is seen is read from its top. */
watch(
  open,
  async () => {
    await nextTick()
    const top = document.querySelector('.deck .where')
    if (opened && top && top.getBoundingClientRect().top < 0) top.scrollIntoView()
  },
  { flush: 'post' },
)
/** Where a person is at work is left alone; the link of the band that they came by is not. */
const taken = (active: Element | null) =>
  active !== null &&
  active !== document.body &&
  active.id !== 'main' &&
  (opened || active.closest('#main, [role=dialog], input') !== null)
/** What a job is about is read first: only what comes up later moves the page to itself. */
async function focusNext() {
  await nextTick()
  if (taken(document.activeElement)) return
  const next = primary() ?? firstField()
  next?.focus({ preventScroll: !opened })
  if (next) opened = true
}
useEventListener('keydown', (event) => {
  if (event.defaultPrevented || (event.key !== 'Enter' && event.key !== ' ')) return
  if (
    document.activeElement &&
    document.activeElement !== document.body &&
    document.activeElement.id !== 'main'
  )
    return
  event.preventDefault()
  primary()?.click()
})

// The screen stays on while a run is under way, where the browser can do that.
const awake = useWakeLock()
watch(
  () => run.value?.outcome === 'running',
  (running) => void (running ? awake.request('screen') : awake.release()),
  { immediate: true },
)

/** A page or an image was taken anew: the job goes on where it stands. */
const moved = () =>
  loading.ask(async () => {
    await load()
    again.value = null
  })
/** What the writes after this one take, hands included, ms. */
const later = computed(() =>
  (view.value?.stays ?? []).slice(1).reduce((sum, { totalMs }) => sum + totalMs, 0),
)
const ended = computed(() => run.value !== null && ['failed', 'cut', 'abandoned'].includes(run.value.outcome))
</script>

<template>
  <div
    v-if="view"
    class="grid grid-cols-[296px_minmax(0,1fr)_268px] min-h-full mid:grid-cols-[240px_minmax(0,1fr)] phone:grid-cols-1 phone:grid-rows-[auto_auto_1fr]"
  >
    <JobStations
      :stations="stations"
      :unit="view.unit"
      :free="free"
      :again="again"
      class="line-r phone:border-r-0 phone:line-b"
      @open="again = $event === stands ? null : $event"
    >
      <JobDeeds :view="view" :running="run?.outcome === 'running'" @done="loading.ask(load)" />
    </JobStations>
    <section
      class="deck flex pt-8.5 pb-6 px-11 flex-col min-w-0 mid:pt-7 mid:px-7 phone:py-5 phone:px-4"
      :aria-label="`Station ${open}`"
    >
      <RoundsNow :job-id="view.job.id" />
      <p v-if="again && again !== stands" class="mb-4.5 py-2 px-3.5 bar-brass bg-sheet" role="status">
        {{ again === 'close' ? '' : 'Opened again.' }} {{ meaning }}
        <NButton size="small" @click="again = null">Back to where the job stands</NButton>
      </p>
      <NeedNote
        v-if="['unit', 'image', 'bench'].includes(open) && !view.runs.length && view.job.task === 'write'"
        :view="view"
        @closed="loading.ask(load)"
      />
      <UnitStation
        v-if="open === 'unit'"
        v-model:port="chosen.port"
        :view="view"
        :family="family"
        @read="moved"
        @said="said"
        @judged="focusNext"
      />
      <ChipStation
        v-else-if="open === 'image' && view.job.task === 'chip' && desk"
        :view="view"
        :desk="desk"
        @said="moved"
      />
      <ImageStation v-else-if="open === 'image'" :view="view" @chosen="moved" />
      <BenchStation
        v-else-if="open === 'bench'"
        v-model:port="chosen.port"
        v-model:speed="chosen.speed"
        :view="view"
        :gates="gates"
        :busy="starting.busy.value"
        @start="start"
        @said="said"
      />
      <CloseStation
        v-else-if="open === 'close'"
        :view="view"
        :run="run"
        :family="family"
        @closed="loading.ask(load)"
        @said="loading.askInTurn(load)"
      />
      <LiveStation
        v-else-if="run && lastRun"
        :id="lastRun.id"
        :run="run"
        :joined="followed?.joined ?? run.outcome !== 'running'"
        :events="followed?.events ?? []"
        :family="family"
        :ended="ended"
        :restarting="starting.busy.value"
        :startable="view.byHand || chosen.port !== null"
        :later="{ count: Math.max(0, view.stays.length - 1), ms: later }"
        v-bind="desk ? { desk } : {}"
        @again="start"
        @asks="focusNext"
      >
        <StillFree
          v-if="ended"
          v-model:port="chosen.port"
          :view="view"
          :run="run"
          @station="again = $event"
        />
      </LiveStation>
      <ProblemNote v-if="starting.problem.value" :problem="starting.problem.value" class="mt-4.5" />
      <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" class="mt-4.5" />
    </section>
    <RunSidebar
      :view="view"
      :run="run"
      :gates="gates"
      :family="family"
      :port-id="chosen.port"
      class="line-l mid:col-span-full mid:border-l-0 mid:line-t"
    />
  </div>
  <div v-else class="page">
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <p v-else class="soft" role="status">Loading…</p>
  </div>
</template>

<style>
/* Shared by the stations of a job. */
.deck .where {
  font-size: 13px;
  color: var(--soft);
  margin-bottom: 6px;
}
.deck .say {
  font-size: 44px;
  line-height: 1.1;
  font-weight: 650;
  letter-spacing: -0.015em;
  margin: 0 0 18px;
}
.deck .say.calm {
  font-size: 34px;
}
.deck .lead {
  font-size: 18px;
  margin-bottom: 16px;
  max-width: 62ch;
}
.deck .acts {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
  margin: 6px 0 20px;
}
@media (max-width: 700px) {
  .deck .say,
  .deck .say.calm {
    font-size: 28px;
  }
}
</style>
