<script setup lang="ts">
import { checkText } from '@bench-wake/core/link'
import type { LogbookRow } from '@bench-wake/core/record'
import { taskText } from '@bench-wake/core/run'
import type { Refusal } from '@bench-wake/server'
import { useDebounceFn } from '@vueuse/core'
import { NButton, NInput } from 'naive-ui'
import { onMounted, ref, shallowRef, watch } from 'vue'
import ListTable from '../parts/ListTable.vue'
import type { ListColumn } from '../parts/list-column'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import WakeStrip from '../parts/WakeStrip.vue'
import { rowVerdict, rowWords } from '../parts/outcome'
import { api, got } from '../stores/api'
import { runsAtATime } from '../stores/bench'
import { durationText, whenText } from '../parts/written'

const columns: ListColumn<LogbookRow>[] = [
  { key: 'unit', title: 'Unit', width: '27%', sort: ({ unitName }) => unitName },
  { key: 'when', title: 'When, how long', sort: ({ startedAt }) => startedAt },
  { key: 'versions', title: 'From and to', sort: ({ to }) => to },
  { key: 'wake', title: 'Wake', width: 250 },
  { key: 'came', title: 'What came of it', width: '24%', sort: (row) => rowWords(row) },
]
const rows = shallowRef<LogbookRow[] | null>(null)
/** What was refused lately, and why. */
const refused = ref<Refusal[]>([])
const q = ref('')
const { busy, problem, ask, askInTurn } = useAsked()

/** Whether the logbook has more rows than are shown. */
const more = ref(false)
const page = async (after?: string) => {
  const query = { q: q.value, count: String(runsAtATime), ...(after ? { after } : {}) }
  const some = await got<LogbookRow[]>(api.logbook.$get({ query }))
  more.value = some.length === runsAtATime
  return some
}
const load = async () => {
  rows.value = await page()
  refused.value = await got<Refusal[]>(api.logbook.refusals.$get())
}
const loadMore = () =>
  ask(async () => {
    rows.value = [...(rows.value ?? []), ...(await page(rows.value?.at(-1)?.runId))]
  })
onMounted(() => ask(load))
watch(
  q,
  useDebounceFn(() => askInTurn(load), 200),
)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Logbook</h1>
      <div class="tools flex gap-5 items-center flex-wrap">
        <NInput
          v-model:value="q"
          placeholder="Unit, place, serial, image, what went wrong"
          clearable
          :input-props="{ 'aria-label': 'Search the logbook' }"
        />
        <a class="leading-11" :href="`/api/logbook/export?format=csv&q=${encodeURIComponent(q)}`" download
          >As CSV</a
        >
        <a class="leading-11" :href="`/api/logbook/export?format=json&q=${encodeURIComponent(q)}`" download
          >As JSON</a
        >
      </div>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <ListTable
      v-if="rows?.length"
      :rows="rows"
      :columns="columns"
      :key-of="({ runId }) => runId"
      label="Runs"
      searched
    >
      <template #unit="{ row }">
        <RouterLink :to="{ name: 'record', params: { id: row.runId } }">{{ row.unitName }}</RouterLink>
        <small>{{ row.place }}, <span class="mono">{{ row.serial }}</span></small>
      </template>
      <template #when="{ row }">
        {{ whenText(row.startedAt) }}<small>{{ durationText(row.tookMs) }}</small>
      </template>
      <template #versions="{ row }">
        {{ row.from ?? 'not known' }} to {{ row.to ?? 'not known'
        }}<small v-if="row.task === 'write'" class="mono">{{ row.imageName }}</small>
        <small v-else>{{ taskText[row.task] }}</small>
      </template>
      <template #wake="{ row }">
        <WakeStrip
          :strip="row.strip"
          :width="230"
          :height="26"
          :label="`${row.unitName}: ${rowWords(row)}`"
        />
      </template>
      <template #came="{ row }">
        <VerdictMark :verdict="rowVerdict(row)" quiet /> {{ rowWords(row) }}
        <small v-if="row.legs > 1">{{ row.legs }} legs. {{ row.legTroubles.at(-1) }}</small>
        <small v-if="row.trouble">{{ row.trouble }}</small>
        <small v-else-if="row.foundOut">{{ row.foundOut }}</small>
        <small v-else-if="row.check">{{ checkText({ outcome: row.check }) }}</small>
        <small v-if="row.standIn">on a stand-in</small>
      </template>
    </ListTable>
    <NButton v-if="more" class="mt-4" :loading="busy" @click="loadMore">Show earlier runs</NButton>
    <p v-if="rows?.length === 0 && q" class="lead text-lead">No run has “{{ q }}” in it.</p>
    <p v-else-if="rows?.length === 0" class="lead text-lead">No run yet. The first one writes itself here.</p>
    <p v-else-if="!rows && !problem" class="soft" role="status">Loading…</p>
    <details v-if="refused.length" class="mt-5.5">
      <summary class="fold">Refused lately: {{ refused.length }}</summary>
      <ul class="plain">
        <li
          v-for="each in refused"
          :key="each.id"
          class="grid py-1.5 gap-2 grid-cols-[18px_minmax(0,1fr)_auto] line-t"
        >
          <VerdictMark verdict="stop" quiet />
          <span
            >{{ whenText(each.at) }}: {{ each.thing ? `${each.thing}: ` : '' }}{{ each.says
            }}{{ each.found ? ` (${each.found})` : '' }}</span
          >
          <small class="mono soft">{{ each.asked }}</small>
        </li>
      </ul>
    </details>
  </div>
</template>

<style scoped>
.tools > :first-child {
  width: 340px;
  max-width: 100%;
}
</style>
