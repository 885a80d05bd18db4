<script setup lang="ts">
import { parities } from '@bench-wake/core/family'
import { isProblem } from '@bench-wake/core/kernel'
import { traceName, type SerialSettings, type TraceRow } from '@bench-wake/core/link'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { NButton, NCheckbox, NInput } from 'naive-ui'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import FilePick from '../parts/FilePick.vue'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useTrace } from '../parts/port/useTrace'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { fixed } from '../parts/written'

/** What goes over a port, row by row in the words of what is spoken; to be filtered, saved, and played again from a file. */
const route = useRoute()
const bench = useBench()
const port = computed(() => String(route.query['port'] ?? ''))
const { rows, head, source, joined, playing, follow, play, stop } = useTrace()
const asking = useAsked()
const filter = ref('')
const only = ref<'all' | 'out' | 'in' | 'wrong'>('all')
const tail = ref(true)
const chosen = ref<number | null>(null)
const list = ref<HTMLElement | null>(null)

const entry = computed(() => bench.ports?.find(({ id }) => id === port.value))
onMounted(() => bench.loadPorts().catch(() => {}))
const join = () =>
  asking.askInTurn(async () => {
    // The stream cannot say why it refuses; a plain question can.
    await got(api.ports.trace.head.$get({ query: { port: port.value } }))
    follow(port.value)
  })
watch(port, (id) => id && void join(), { immediate: true })

const shown = computed<TraceRow[]>(() => {
  const wanted = filter.value.trim().toLowerCase()
  return rows.value.filter(
    (row) =>
      (only.value === 'all' || (only.value === 'wrong' ? row.wrong : row.direction === only.value)) &&
      (wanted === '' ||
        row.says.toLowerCase().includes(wanted) ||
        row.bytes.includes(wanted.replace(/\s/g, ''))),
  )
})
const startedAt = computed(() => rows.value[0]?.at ?? 0)
const seconds = (at: number) => fixed((at - startedAt.value) / 1000, 3)
const virtual = useVirtualizer(
  computed(() => ({
    count: shown.value.length,
    getScrollElement: () => list.value,
    estimateSize: () => 28,
    overscan: 20,
  })),
)
watch(
  () => shown.value.length,
  async (count) => {
    if (!tail.value || count === 0) return
    await nextTick()
    virtual.value.scrollToIndex(count - 1)
  },
)
const spaced = (bytes: string, max = 24) => {
  const pairs = bytes.match(/../g) ?? []
  return pairs.slice(0, max).join(' ') + (pairs.length > max ? ` … ${pairs.length} bytes` : '')
}
const inHand = computed(() => (chosen.value === null ? undefined : shown.value[chosen.value]))

const fileText = ref('')
const fileName = ref('')
async function load(file: File) {
  show(file.name, await file.text(), 0)
}
const replay = (speed: number) => show(fileName.value, fileText.value, speed)
/** Shows a file's trace; one that is none leaves what is shown as it is, and is named. */
function show(name: string, text: string, speed: number) {
  void asking.ask(async () => {
    try {
      play(text, speed)
      fileName.value = name
      fileText.value = text
    } catch (error) {
      if (isProblem(error)) error.facts.thing = name
      throw error
    }
  })
}

const settings = ref<SerialSettings>({ baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 })
const listening = computed(() => entry.value?.heldBy === 'listening')
const listen = (on: boolean) =>
  asking.ask(async () => {
    if (on) await got(api.ports.listen.$post({ json: { port: port.value, settings: settings.value } }))
    else await got(api.ports.listen.end.$post({ json: { port: port.value } }))
    await bench.loadPorts()
    if (on) follow(port.value)
  })
const rowOptions = [
  { value: 'all', label: 'Both directions' },
  { value: 'out', label: 'To the unit' },
  { value: 'in', label: 'From the unit' },
  { value: 'wrong', label: 'Only what is wrong' },
]
const bitOptions = [5, 6, 7, 8].map((value) => ({ value, label: `${value} data bits` }))
const parityOptions = parities.map((value) => ({
  value,
  label: value === 'none' ? 'no parity' : `${value} parity`,
}))
const stopOptions = [
  { value: 1, label: '1 stop bit' },
  { value: 2, label: '2 stop bits' },
]
const bauds = [1200, 9600, 10_400, 19_200, 38_400, 57_600, 115_200, 230_400, 460_800, 2_000_000]
const baudOptions = bauds.map((value) => ({ value, label: `${value} baud` }))
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Trace{{ entry ? `: ${entry.name}` : '' }}</h1>
        <p class="soft">
          <template v-if="head">
            {{ traceName(head.speech) }}, {{ rows.length }} rows{{
              source === 'file' ? `, from ${fileName}` : joined ? ', as it runs' : ', not joined'
            }}
          </template>
          <template v-else
            >Nothing is shown yet. Choose a port on the ports page, or open a saved trace.</template
          >
        </p>
      </div>
      <div class="acts gap-3">
        <a
          v-if="source === 'port' && head"
          :href="`/api/ports/trace?port=${encodeURIComponent(port)}`"
          download
          >Export JSON lines</a
        >
        <FilePick label="Saved trace" accept=".jsonl,.json,.txt" @picked="load">
          <NButton>Open a saved trace</NButton>
        </FilePick>
      </div>
    </div>
    <ProblemNote v-if="asking.problem.value" :problem="asking.problem.value" />

    <div class="tools flex mb-3 gap-3 flex-wrap items-center">
      <NInput
        v-model:value="filter"
        class="w-55"
        clearable
        placeholder="Words or bytes"
        :input-props="{ 'aria-label': 'Filter' }"
      />
      <PickOne v-model:value="only" label="Which rows" :options="rowOptions" />
      <NCheckbox v-model:checked="tail">Follow the end</NCheckbox>
      <template v-if="source === 'file'">
        <NButton @click="replay(1)">Play as it went</NButton>
        <NButton @click="replay(10)">10 times</NButton>
        <NButton v-if="playing" @click="stop">Stop</NButton>
        <NButton v-else @click="replay(0)">All at once</NButton>
      </template>
      <span class="soft small" role="status">{{ shown.length }} shown</span>
    </div>

    <div v-if="entry?.channel === 'serial'" class="tools flex mb-3 gap-3 flex-wrap items-center">
      <PickOne v-model:value="settings.baudRate" label="Baud" :options="baudOptions" :disabled="listening" />
      <PickOne
        v-model:value="settings.dataBits"
        label="Data bits"
        :options="bitOptions"
        :disabled="listening"
      />
      <PickOne
        v-model:value="settings.parity"
        label="Parity"
        :options="parityOptions"
        :disabled="listening"
      />
      <PickOne
        v-model:value="settings.stopBits"
        label="Stop bits"
        :options="stopOptions"
        :disabled="listening"
      />
      <NButton v-if="listening" @click="listen(false)">Stop listening</NButton>
      <NButton v-else :disabled="!!entry.heldBy" @click="listen(true)">Open it and listen</NButton>
      <span class="soft small"
        >It sends nothing. A run or a reading opens the port with its own settings.</span
      >
    </div>

    <div
      ref="list"
      class="rows mb-3 overflow-auto line-a"
      tabindex="0"
      role="region"
      aria-label="Rows of the trace"
    >
      <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
        <button
          v-for="item in virtual.getVirtualItems()"
          :key="item.index"
          type="button"
          class="row grid py-0 px-3 gap-2.5 absolute h-7 items-center bare-border bg-transparent text-inherit font-inherit text-left whitespace-nowrap cursor-pointer left-0 right-0 grid-cols-[84px_34px_minmax(220px,1fr)_minmax(0,1.1fr)] text-body phone:grid-cols-[62px_minmax(0,1fr)]"
          :class="[
            shown[item.index]!.direction,
            { wrong: shown[item.index]!.wrong, chosen: chosen === item.index },
          ]"
          :style="{ transform: `translateY(${item.start}px)` }"
          @click="chosen = chosen === item.index ? null : item.index"
        >
          <span class="mono overflow-hidden text-ellipsis soft">{{ seconds(shown[item.index]!.at) }}</span>
          <span class="way overflow-hidden text-ellipsis soft phone:hidden">{{
            { out: 'out', in: 'in', none: '' }[shown[item.index]!.direction]
          }}</span>
          <span class="says overflow-hidden text-ellipsis">{{ shown[item.index]!.says }}</span>
          <span class="mono overflow-hidden text-ellipsis soft phone:hidden">{{
            spaced(shown[item.index]!.bytes)
          }}</span>
        </button>
      </div>
    </div>
    <p v-if="inHand" class="mono wrap-anywhere small max-h-40 overflow-auto" aria-label="Bytes of the row">
      {{ spaced(inHand.bytes, 4096) || 'no bytes' }}
    </p>
    <p class="small"><RouterLink :to="{ name: 'ports' }">All ports</RouterLink></p>
  </div>
</template>

<style scoped>
.tools .pick {
  width: 190px;
}
.rows {
  height: min(56vh, 620px);
}
.row.none .says {
  color: var(--soft);
}
.row.out .way {
  text-align: left;
}
.row.in .way {
  text-align: right;
}
.row.in .says {
  padding-left: 18px;
}
.row.wrong .says {
  color: var(--stop);
}
.row:hover,
.row.chosen {
  background: var(--water);
}
</style>
