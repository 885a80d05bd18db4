<script setup lang="ts">
import { groupedNumber, type Finding } from '@bench-wake/core/kernel'
import { joinRanges, type LogSummary } from '@bench-wake/core/rounds'
import type { CaseAnswer } from '@bench-wake/server'
import { NButton, NProgress, NRadioButton, NRadioGroup } from 'naive-ui'
import { computed, defineAsyncComponent, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import FindingList from '../parts/FindingList.vue'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import ChannelPlot from '../parts/rounds/ChannelPlot.vue'
import FigureMap from '../parts/rounds/FigureMap.vue'
import { figureText, secondText } from '../parts/rounds/words'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useLogDesk, type LogMap } from '../workers/log-desk'
import { durationText, fixed, short, sizeText } from '../parts/written'

const ScatterPlot = defineAsyncComponent(() => import('../parts/rounds/ScatterPlot.vue'))

/** One log of a case: channels over time, a map of the error, and another log beside it. */
const route = useRoute()
const id = String(route.params['id'])
const logId = String(route.params['log'])
const view = shallowRef<CaseAnswer | null>(null)
const opened = shallowRef<(LogSummary & { findings: Finding[] }) | null>(null)
const share = ref(0)
const desk = useLogDesk((done) => (share.value = done))
const loading = useAsked()

const urlOf = (log: string) => `/api/cases/${encodeURIComponent(id)}/logs/${encodeURIComponent(log)}/bytes`
onMounted(() =>
  loading.ask(async () => {
    view.value = await got<CaseAnswer>(api.cases[':id'].$get({ param: { id } }))
    opened.value = await desk('open', logId, urlOf(logId), view.value.state.agreement)
  }),
)

const log = computed(() => view.value?.logs.find((each) => each.id === logId) ?? null)
const agreement = computed(() => view.value?.state.agreement ?? null)
const kindName = (kind: string) => agreement.value?.kinds.find((each) => each.id === kind)?.name ?? kind

/** The agreed channels first, in their order; the rest after them. */
const channels = computed(() => {
  const own = opened.value?.channels ?? []
  const agreed = (agreement.value?.channels ?? []).map(({ name }) => name.toLowerCase())
  const place = (name: string) => {
    const index = agreed.indexOf(name.toLowerCase())
    return index < 0 ? agreed.length : index
  }
  return [...own].sort((a, b) => place(a.name) - place(b.name))
})

const cursor = ref<number | null>(null)
const read = shallowRef<{ second: number; figures: Record<string, number | null> } | null>(null)
watch(cursor, async (second) => {
  if (second !== null && opened.value) read.value = await desk('at', logId, second)
})

/** Another log beside this one, moved to where both reached the load. */
const others = computed(() =>
  (view.value?.logs ?? [])
    .filter((each) => each.id !== logId && each.logKind === log.value?.logKind)
    .map((each) => ({ value: each.id, label: `Round ${each.round}: ${each.name}` })),
)
const beside = ref<string | null>(null)
const besideOffset = ref(0)
const besideSummary = shallowRef<LogSummary | null>(null)
const besideSays = ref('')
const joining = useAsked()
const ready = ref<string | null>(null)
watch(beside, (other) =>
  joining.askInTurn(async () => {
    ready.value = null
    besideSays.value = ''
    besideSummary.value = null
    if (!other || !view.value) return
    besideSummary.value = await desk('open', other, urlOf(other), view.value.state.agreement)
    const condition = agreement.value?.kinds.find((kind) => kind.id === log.value?.logKind)?.conditions[0]
    const { seconds: _, ...where } = condition ?? { channel: '', seconds: 0 }
    const offset = condition ? await desk('align', logId, other, where) : null
    besideOffset.value = offset ?? 0
    besideSays.value =
      offset === null
        ? 'Both begin at their start: no condition was reached in both.'
        : `Moved by ${fixed(offset, 1)} s, to where both held ${where.channel}.`
    ready.value = other
  }),
)
/** Both logs on one scale: what is higher in one has to look higher. */
const lanes = computed(() =>
  besideSummary.value ? joinRanges(channels.value, besideSummary.value.channels) : channels.value,
)
const logs = computed(() => [
  { id: logId, name: log.value?.name ?? '', offset: 0 },
  ...(ready.value ? [{ id: ready.value, name: '', offset: besideOffset.value }] : []),
])

/** The map: the error by the aim's own edges, or any channel over two others. */
const lens = ref<'error' | 'channel' | 'points'>('channel')
const picked = ref('')
const along = ref({ x: '', y: '' })
const map = shallowRef<LogMap | null>(null)
watch(opened, () => {
  const names = channels.value.map(({ name }) => name)
  const { aim } = agreement.value ?? {}
  lens.value = aim ? 'error' : 'channel'
  picked.value = aim?.channel ?? names[2] ?? names[0] ?? ''
  along.value = { x: aim?.x.channel ?? names[0] ?? '', y: aim?.y.channel ?? names[1] ?? '' }
})
watch(
  [lens, picked, along, opened],
  async () => {
    if (!opened.value || lens.value === 'points') return
    const { aim } = agreement.value ?? {}
    const { x, y } = along.value
    const same = lens.value === 'error' && aim
    map.value = same
      ? await desk('map', logId, { aim }, aim.x, aim.y)
      : await desk(
          'map',
          logId,
          { channel: picked.value },
          { channel: x, points: null },
          { channel: y, points: null },
        )
  },
  { deep: true },
)
const names = computed(() => channels.value.map(({ name }) => ({ value: name, label: name })))
const unitOf = (name: string) => channels.value.find((each) => each.name === name)?.unit ?? ''

/** The picture that goes with an answer. */
const drawing = useAsked()
const savePicture = () =>
  drawing.ask(async () => {
    const title = `${agreement.value!.title}, round ${log.value!.round}: ${kindName(log.value!.logKind)}`
    const svg = await desk(
      'picture',
      logId,
      channels.value.map(({ name }) => name),
      title,
    )
    const link = document.createElement('a')
    link.href = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }))
    link.download = `${log.value!.name.replace(/\.\w+$/, '')}.svg`
    link.click()
    setTimeout(() => URL.revokeObjectURL(link.href), 1000)
  })
</script>

<template>
  <div class="page">
    <p class="small soft">
      <RouterLink :to="{ name: 'rounds' }">Rounds</RouterLink>
      <template v-if="view">
        /
        <RouterLink :to="{ name: 'case', params: { id } }">{{
          view.state.agreement.title
        }}</RouterLink></template
      >
    </p>
    <div class="head">
      <div>
        <h1>{{ log?.name ?? 'Log' }}</h1>
        <p v-if="log && opened" class="soft">
          {{ kindName(log.logKind) }}, round {{ log.round }}. {{ groupedNumber(opened.rows) }} rows over
          {{ durationText(opened.seconds * 1000) }}, {{ short(opened.hertz, 3) }} a second,
          {{ sizeText(log.bytes) }}.
        </p>
      </div>
      <div class="acts gap-2.5">
        <NButton v-if="opened" :loading="drawing.busy.value" @click="savePicture">Save picture</NButton>
        <NButton tag="a" :href="urlOf(logId)" download>Save log</NButton>
      </div>
    </div>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <ProblemNote v-if="drawing.problem.value" :problem="drawing.problem.value" />
    <div v-if="!opened && !loading.problem.value" role="status">
      <p class="soft">Reading the log…</p>
      <NProgress type="line" :percentage="Math.round(share * 100)" :show-indicator="false" />
    </div>
    <template v-if="opened && log">
      <FindingList :findings="log.findings" />
      <section aria-label="Channels over time" class="mt-5.5 pt-4 line-t">
        <div class="flex mb-2.5 gap-3.5 flex-wrap justify-between items-center">
          <h2>Channels over time</h2>
          <div v-if="others.length > 0" class="pick grid gap-1">
            <span class="small soft">Beside it</span>
            <PickOne
              v-model:value="beside"
              label="Another log beside it"
              :options="others"
              placeholder="no other log"
            />
          </div>
        </div>
        <p v-if="besideSays" class="small soft" role="status">{{ besideSays }}</p>
        <ProblemNote v-if="joining.problem.value" :problem="joining.problem.value" />
        <ChannelPlot
          v-model:cursor="cursor"
          :desk="desk"
          :logs="logs"
          :channels="lanes"
          :seconds="opened.seconds"
        />
        <dl v-if="read" class="reading flex mt-2.5 mb-0 mx-0 gap-y-1.5 gap-x-6.5 flex-wrap" aria-live="off">
          <div>
            <dt class="small soft">At</dt>
            <dd class="m-0 mono text-lead min-w-[8ch]">{{ secondText(read.second) }}</dd>
          </div>
          <div v-for="channel in channels" :key="channel.name">
            <dt class="small soft">{{ channel.name }}</dt>
            <dd class="m-0 mono text-lead min-w-[8ch]">
              {{ figureText(read.figures[channel.name] ?? null) || 'none' }} {{ channel.unit }}
            </dd>
          </div>
        </dl>
      </section>
      <section aria-label="Map" class="mt-5.5 pt-4 line-t">
        <div class="flex mb-2.5 gap-3.5 flex-wrap justify-between items-center">
          <h2>Map</h2>
          <NRadioGroup v-model:value="lens" name="lens">
            <NRadioButton v-if="agreement?.aim" value="error">Error to the aim</NRadioButton>
            <NRadioButton value="channel">A channel</NRadioButton>
            <NRadioButton value="points">Points</NRadioButton>
          </NRadioGroup>
        </div>
        <div v-if="lens !== 'error'" class="choices flex mb-3 gap-3.5 flex-wrap">
          <div v-if="lens === 'channel'" class="grid gap-1">
            <span class="small soft">Channel</span
            ><PickOne v-model:value="picked" label="Channel" :options="names" filterable />
          </div>
          <div class="grid gap-1">
            <span class="small soft">Along</span
            ><PickOne v-model:value="along.x" label="Along" :options="names" filterable />
          </div>
          <div class="grid gap-1">
            <span class="small soft">Up</span
            ><PickOne v-model:value="along.y" label="Up" :options="names" filterable />
          </div>
        </div>
        <ScatterPlot
          v-if="lens === 'points'"
          :desk="desk"
          :log="logId"
          :x="along.x"
          :y="along.y"
          :x-unit="unitOf(along.x)"
          :y-unit="unitOf(along.y)"
        />
        <FigureMap
          v-else-if="map"
          :x="{ name: along.x, unit: unitOf(along.x), points: map.x }"
          :y="{ name: along.y, unit: unitOf(along.y), points: map.y }"
          :cells="map.mean"
          :count="map.count"
          :signed="lens === 'error'"
          :unit="lens === 'error' ? (agreement?.aim?.unit ?? '') : unitOf(picked)"
          :label="lens === 'error' ? 'Error to the aim' : `${picked} over ${along.x} and ${along.y}`"
        />
        <p v-else class="soft">The log does not have the channels of this map.</p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.pick,
.choices > div {
  min-width: min(280px, 100%);
}
</style>
