<script setup lang="ts">
import { standInOf } from '@bench-wake/core/link'
import {
  expectsOf,
  type CauseId,
  type EntryState,
  type KnownOfBench,
  type UsbIds,
} from '@bench-wake/core/entry'
import type { EntryAct } from '@bench-wake/core/family'
import { shutLinkOf } from '@bench-wake/core/job'
import { gatesBeforeLink, judgeWiring, linkOfJob } from '@bench-wake/core/ready'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import Coach from '../parts/entry/Coach.vue'
import FindingList from '../parts/FindingList.vue'
import Ladder from '../parts/entry/Ladder.vue'
import { useJobBench } from '../parts/job/useJobBench'
import PickOne from '../parts/PickOne.vue'
import PortChoice from '../parts/PortChoice.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { written } from '../parts/written'

/** The coach of a job: into the bootloader, and why not. */
const route = useRoute()
const id = String(route.params['id'])
const bench = useBench()
const causesBefore = ref<{ cause: CauseId }[]>([])
const { view, adapters, family, problem, ask } = useJobBench(id)
/** Keeps what it was, for the next ladder at this bench. */
const found = (cause: CauseId) =>
  ask(async () => {
    const familyId = view.value!.unit.familyId
    await got(api.causes.$post({ json: { familyId, jobId: id, cause } }))
  })

const atStandIn = computed(() => port.value !== null && standInOf(port.value) !== null)
/** What stands in the way of opening the link; the coach leads all the same, and the program keeps off it. */
const shut = computed(() => {
  if (!view.value || !family.value) return []
  const gates = gatesBeforeLink({
    family: family.value,
    said: view.value.bench,
    adapters: adapters.value,
    workshopRules: view.value.workshopRules,
    now: Date.now(),
    standIn: atStandIn.value,
  })
  return shutLinkOf(gates, view.value.job.releases)
})
/** What the entry asks of the program goes over the port; without one the coach says so. */
const perform = computed(() => {
  const [chosen, entry] = [port.value, way.value]
  if (!view.value?.driven || !chosen || !entry || shut.value.length > 0) return null
  return async (act: EntryAct) => {
    const json = { port: chosen, way: entry.id, act: act.id }
    await got(api.jobs[':id']['entry-act'].$post({ param: { id }, json }))
  }
})

/** A stand-in at the port follows the hands: off when a try begins, into its bootloader when all was done in time. */
const hands = async (did: 'off' | 'entry') => {
  if (!atStandIn.value) return
  await ask(async () => {
    await got(api.jobs[':id'].hands.$post({ param: { id }, json: { port: port.value!, did } }))
  })
}
/** What was asked of the line in an earlier try says nothing about this one. */
let attempt = 0
const begun = async () => {
  attempt++
  pause()
  await hands('off')
  answered.value = false
  heard.value = null
  came.value = null
  resume()
}

/*
 * The link listens meanwhile: over a line of its own the bootloader is asked again and again, and where the bootloader
 * is a USB device of its own, a port or device that was not there before is it.
 */
/** Ports that were there when the page opened; null until that is known. */
const portsBefore = ref<Set<string> | null>(null)
const answered = ref(false)
/** What the line said instead, and the port that came: the judge weighs both. */
const heard = ref<string | null>(null)
const came = ref<{ usb?: UsbIds } | null>(null)
const port = ref<string | null>(null)
const listening = ref(false)
const { pause, resume } = useIntervalFn(() => void hear(), 1500, { immediate: false })
async function hear() {
  if (!view.value || answered.value || stuck.value || listening.value) return
  listening.value = true
  const asked = attempt
  try {
    if (view.value.driven) {
      if (!port.value || shut.value.length > 0) return
      const told = await got<{ answered: boolean; heard?: string }>(
        api.jobs[':id'].listen.$post({ param: { id }, json: { port: port.value } }),
      )
      if (asked !== attempt) return
      answered.value = told.answered
      heard.value = told.heard ?? null
    } else if (portsBefore.value && family.value?.links.some(({ kind }) => kind === 'usb')) {
      const before = portsBefore.value
      await bench.loadPorts()
      const fresh = (bench.ports ?? []).find(({ id, kind }) => kind !== 'stand-in' && !before.has(id))
      const { vendorId, productId } = fresh?.usb ?? {}
      const ids =
        vendorId && productId
          ? { usb: { vendorId: parseInt(vendorId, 16), productId: parseInt(productId, 16) } }
          : {}
      came.value = fresh ? ids : null
    }
  } catch {
    // Nobody answers yet; it is asked again.
  } finally {
    listening.value = false
  }
}
watch(answered, (heard) => heard && pause())
// A port that is chosen in the middle of a try: the try begins from power off there too.
watch(port, (now, before) => {
  if (attempt > 0 && now && before === null) void begun()
})
// Once the job is known: what was found at this bench before, and which ports are there now. The job's own question is
// still open at that moment, and would drop a second one.
const atBench = useAsked()
watch(view, (job) => {
  if (!job) return
  void atBench.ask(async () => {
    causesBefore.value = await got<{ cause: CauseId }[]>(
      api.causes[':familyId'].$get({ param: { familyId: job.unit.familyId } }),
    )
    await bench.loadPorts()
    portsBefore.value = new Set(bench.ports?.map((each) => each.id))
  })
})
const ways = computed(() => family.value?.entry.filter(({ script }) => script) ?? [])
const wayId = ref<string | null>(null)
const way = computed(() => ways.value.find((each) => each.id === wayId.value) ?? ways.value[0])
const stuck = ref(route.query['why'] !== undefined)
const expects = computed(() =>
  family.value ? expectsOf(linkOfJob(family.value, view.value?.bench.wiring)) : {},
)
const last = ref<EntryState | null>(null)

const known = computed<KnownOfBench | null>(() => {
  if (!family.value || !view.value || !way.value) return null
  const { wiring, isolation } = view.value.bench
  const gate = judgeWiring(family.value, adapters.value, wiring, view.value.workshopRules)
  const adapter = adapters.value.find((each) => each.id === wiring?.adapterId)
  const failure = last.value?.failure
  return {
    family: family.value,
    link: linkOfJob(family.value, wiring),
    way: way.value,
    wiringRight: wiring !== undefined && gate.verdict === 'go',
    adapterGood: adapter?.standing === 'good',
    foundBefore: causesBefore.value.map(({ cause }) => cause),
    ...(isolation?.scanned ? { unitsOnBus: isolation.scanned.found.length } : {}),
    ...(failure ? { lastTry: failure.offMs !== undefined ? ('missed' as const) : ('in-time' as const) } : {}),
  }
})
/** What the program sees by itself: the port, who holds it, the sign of the last try. */
const seen = computed(() => {
  const answers: Record<string, string> = {}
  const real = (bench.ports ?? []).filter(({ kind }) => kind === 'serial')
  if (real.length > 0) {
    answers['port-listed'] = 'yes'
    answers['port-free'] = real.every(({ program }) => program) ? 'held' : 'free'
  }
  const sign = last.value?.sign
  if (sign) answers['sign'] = sign.tells === 'in' ? 'in' : 'normal'
  return answers
})
</script>

<template>
  <div class="page">
    <ProblemNote v-if="atBench.problem.value" :problem="atBench.problem.value" />
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!view || !family" class="soft" role="status">Fetching the coach…</p>
    <template v-else>
      <div class="head">
        <div>
          <h1>Into the bootloader: {{ view.unit.name }}</h1>
          <p class="soft">{{ family.name }}, {{ view.unit.place }}. {{ way?.name }}.</p>
        </div>
        <div class="flex gap-4 items-center slim:flex-wrap">
          <PickOne
            v-if="ways.length > 1"
            class="w-65"
            :value="way?.id ?? null"
            label="Which way"
            :options="ways.map(({ id: value, name: label }) => ({ value, label }))"
            @update:value="wayId = $event"
          />
          <PortChoice v-if="view.driven" v-model="port" :unit-id="view.unit.id" />
          <RouterLink class="whitespace-nowrap" :to="{ name: 'job', params: { id } }"
            >Back to the job</RouterLink
          >
        </div>
      </div>
      <p v-if="family.stages.enter.caution ?? family.power.caution" class="caution mb-5 max-w-[80ch]">
        <b>Caution.</b> {{ written(family.stages.enter.caution ?? family.power.caution) }}
      </p>
      <section v-if="view.driven && port && shut[0]" aria-label="The link is shut">
        <FindingList :findings="[shut[0]]" />
        <p class="small soft">
          The coach leads all the same; the program keeps off the link until that is right.
          <RouterLink :to="{ name: 'job', params: { id } }">Fix it in the job</RouterLink>
        </p>
      </section>
      <p v-if="!way?.script" class="soft">
        This profile has no script for its entry. By its manual: {{ family.entry[0]?.name }}.
      </p>
      <Ladder v-else-if="stuck && known" :known="known" :seen="seen" @again="stuck = false" @found="found" />
      <Coach
        v-else-if="way?.script"
        :key="way.id"
        :script="way.script"
        :panel="family.panel"
        :tries="way.tries"
        :answered="answered"
        :expects="expects"
        :heard="heard"
        :came="came"
        :perform="perform"
        @over="(state) => (last = state)"
        @stuck="stuck = true"
        @worked="hands('entry')"
        @begun="begun"
      >
        <template #in>
          <p class="lead text-lead">
            Go on at once: the bootloader waits, and some leave it again after a while.
          </p>
          <p class="soft">
            It has no version in there. Write it, or switch it off and on: then it starts as before.
          </p>
          <p><RouterLink data-primary :to="{ name: 'job', params: { id } }">To the job</RouterLink></p>
        </template>
      </Coach>
    </template>
  </div>
</template>
