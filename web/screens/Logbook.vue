<script setup lang="ts">
import { checkText } from '@bench-wake/core/link'
import type { LogbookRow } from '@bench-wake/core/record'
import { taskText } from '@bench-wake/core/run'
import type { Refusal } from '@bench-wake/server'
import { useDebounceFn } from '@vueuse/core'
import { NInput } from 'naive-ui'
import { onMounted, ref, shallowRef, watch } from 'vue'
import ListTable from '../parts/ListTable.vue'
import type { ListColumn } from '../parts/list-column'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import WakeStrip from '../parts/WakeStrip.vue'
import { rowVerdict, rowWords } from '../parts/outcome'
import { api, got } from '../stores/api'
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
const { problem, ask, askInTurn } = useAsked()

const load = async () => {
  rows.value = await got<LogbookRow[]>(api.logbook.$get({ query: { q: q.value } }))
  refused.value = await got<Refusal[]>(api.logbook.refusals.$get())
}
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
    <p v-else-if="rows && q" class="lead text-lead">No run has “{{ q }}” in it.</p>
    <p v-else-if="rows" class="lead text-lead">No run yet. The first one writes itself here.</p>
    <p v-else-if="!problem" class="soft" role="status">Loading…</p>
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
