<script setup lang="ts">
import { draftFrom, pieces } from '@bench-wake/core/family'
import { isProblem } from '@bench-wake/core/kernel'
import { readExchanges, type Exchange, type Exchanges } from '@bench-wake/core/link'
import { NButton, NDataTable, type DataTableColumns } from 'naive-ui'
import { computed, h, shallowRef } from 'vue'
import FilePick from '../FilePick.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import type { Teach } from './useTeach'

/** What was kept of a unit, where it is not beside the person: each thing that was sent, with what came back. */
const { teach } = defineProps<{ teach: Teach }>()
const asking = useAsked()
const file = shallowRef<{ name: string; read: Exchanges } | null>(null)

const load = (chosen: File) =>
  asking.ask(async () => {
    const text = await chosen.text()
    const { ends } = teach.draft.value
    try {
      const read = readExchanges(text, ends?.by === 'prompt' ? ends.text : null)
      if (read.line && !teach.draft.value.lineKnown) {
        const { baudRate, dataBits, parity, stopBits } = read.line
        teach.change({ lineKnown: true, line: { baudRate, dataBits, parity, stopBits } })
      }
      file.value = {
        name: chosen.name,
        read,
      }
    } catch (error) {
      if (isProblem(error)) error.facts.thing = chosen.name
      throw error
    }
  })

const told: Record<Exchanges['by'], string> = {
  trace: 'A saved trace.',
  marks: 'Told apart by its marks of who said what.',
  prompt: 'Told apart by the prompt that the unit shows.',
  nothing: 'Nothing in it says what was sent: all of it counts as what the unit said.',
}
const open = computed(() => pieces.find(({ id }) => id === teach.piece.value)!)
const nothing = { sent: '', heard: '' }
const usable = computed(() => draftFrom(teach.draft.value, teach.piece.value, nothing) !== null)

function use(exchange: Exchange): void {
  const change = draftFrom(teach.draft.value, teach.piece.value, exchange)
  if (!change) return
  const { lineEnd } = exchange
  const ends = lineEnd === '\r' || lineEnd === '\n' || lineEnd === '\r\n'
  teach.change({ ...change, ...(ends ? { lineEnd } : {}) })
  if (teach.piece.value === 'page') teach.hear(exchange.heard)
}
const first = (text: string) => {
  const lines = text.split(/[\r\n]+/).filter((line) => line.trim() !== '')
  return lines.length > 2 ? `${lines.slice(0, 2).join(' ⏎ ')} … ${lines.length} lines` : lines.join(' ⏎ ')
}
const columns = computed<DataTableColumns<Exchange & { key: number }>>(() => [
  {
    title: 'Sent',
    key: 'sent',
    width: 180,
    ellipsis: { tooltip: true },
    render: ({ sent }) => h('span', { class: sent ? 'mono' : 'soft' }, sent || 'nothing'),
  },
  {
    title: 'What came back',
    key: 'heard',
    ellipsis: { tooltip: true },
    render: ({ heard }) => h('span', { class: 'mono' }, first(heard)),
  },
  {
    title: '',
    key: 'use',
    width: 150,
    render: (row) =>
      h(
        NButton,
        { size: 'small', disabled: !usable.value, onClick: () => use(row) },
        { default: () => `Use for ${open.value.name.toLowerCase()}` },
      ),
  },
])
const rows = computed(() => file.value?.read.exchanges.map((each, key) => ({ ...each, key })) ?? [])
</script>

<template>
  <div class="grid gap-2">
    <FilePick label="Trace or log" accept=".jsonl,.txt,.log,.trace,text/plain" @picked="load">
      <NButton quaternary :loading="asking.busy.value">From a saved trace or a log</NButton>
    </FilePick>
    <ProblemNote v-if="asking.problem.value" :problem="asking.problem.value" />
    <template v-if="file">
      <p class="small soft" role="status">
        {{ file.name }}, {{ rows.length }} {{ rows.length === 1 ? 'exchange' : 'exchanges' }}.
        {{ told[file.read.by] }}
        {{ usable ? '' : `No exchange says anything about the ${open.name.toLowerCase()}.` }}
      </p>
      <NDataTable
        size="small"
        aria-label="Exchanges of the file"
        :columns="columns"
        :data="rows"
        :row-key="({ key }) => key"
        :max-height="260"
        virtual-scroll
      />
    </template>
  </div>
</template>
