<script lang="ts">
/** Looks at lists, by what they are of. */
const looks = new Map<string, object>()
/** Made when it is first asked for: making it takes a browser some milliseconds. */
let collator: Intl.Collator | undefined
const compare = (a: string, b: string) =>
  (collator ??= new Intl.Collator(undefined, { numeric: true })).compare(a, b)
</script>

<script setup lang="ts" generic="Row extends object">
import { NCheckbox, NDataTable, NInput, type DataTableColumn, type DataTableSortState } from 'naive-ui'
import { computed, h, reactive, type HTMLAttributes, type VNodeChild } from 'vue'
import type { ListColumn } from './list-column'
import ChosenBar from './ChosenBar.vue'
import { useTurns } from './useTurns'

/**
 * A list of the kit: sorted by its heads, in groups where it has some, in pages where it is long; several rows can be
 * chosen for what is done with them together. On a phone each figure has its column's name.
 */
const {
  rows,
  columns,
  keyOf,
  label,
  searched = false,
  groupOf,
  chosenName,
  rowProps,
  leads = true,
  find,
} = defineProps<{
  rows: readonly Row[]
  columns: readonly ListColumn<Row>[]
  keyOf: (row: Row) => string
  /** What the list is of, for who does not see it. */
  label: string
  /** It is searched by a field of its screen's own. */
  searched?: boolean
  /** Heading that a row stands below; headings come in the order of their first rows, however it is sorted. */
  groupOf?: (row: Row) => string
  /** Rows can be chosen; what one is called, for who does not see it. */
  chosenName?: (row: Row) => string
  /** Attributes of a row. */
  rowProps?: (row: Row) => Pick<HTMLAttributes, 'class'> & Record<`data-${string}`, string>
  /** A row leads where its first link does. */
  leads?: boolean
  /** What it is filtered by when it is opened. */
  find?: string | undefined
}>()
/** Keys of the rows that are chosen. */
const chosen = defineModel<string[]>('chosen', { default: () => [] })
/** A slot for each column, by its key; `heading` of a group; `chosen`: what is done with the rows that are chosen. */
const slots = defineSlots<
  Record<string, (of: { row: Row }) => VNodeChild> & {
    heading?: (of: { title: string; rows: readonly Row[] }) => VNodeChild
    chosen?: (of: { rows: readonly Row[] }) => VNodeChild
  }
>()
/** A row, or the heading of a group with the rows of it that are on the page. */
type Line = { row: Row } | { title: string; rows: readonly Row[] }

/** Rows of a page: each costs a browser some milliseconds. */
const pageRows = 50
/** A list that is longer than a look has a field to filter it by. */
const filteredFrom = 15
/** Rows that are drawn at a time: a key pressed meanwhile is answered between two of them. */
const batchRows = 4
const orderWords = { ascend: ', lowest first', descend: ', highest first' }

/** What was looked for, and how it was sorted, is there again when a person comes back. */
interface Look {
  filter: string
  page: number
  sorted: { by: string; order: 'ascend' | 'descend' } | null
}
const look = reactive<Look>((looks.get(label) as Look | undefined) ?? { filter: '', page: 1, sorted: null })
looks.set(label, look)
if (find !== undefined) Object.assign(look, { filter: find, page: 1 })

const found = computed(() => {
  const words = look.filter.trim().toLowerCase().split(/\s+/)
  if (words[0] === '') return rows
  return rows.filter((row) => {
    const text = columns
      .map(({ sort, text: more }) => `${sort?.(row) ?? ''} ${more?.(row) ?? ''}`)
      .join(' ')
      .toLowerCase()
    return words.every((word) => text.includes(word))
  })
})
/** Where each group stands, by the first row of it. */
const ranks = computed(() => {
  const names = groupOf ? [...new Set(rows.map(groupOf))] : []
  return new Map(names.map((name, at) => [name, at]))
})
const ordered = computed<readonly Row[]>(() => {
  const all = sortedRows()
  const rank = (row: Row) => ranks.value.get(groupOf?.(row) ?? '') ?? 0
  return groupOf ? all.toSorted((a, b) => rank(a) - rank(b)) : all
})
function sortedRows(): readonly Row[] {
  const { sorted } = look
  const by = columns.find(({ key }) => key === sorted?.by)?.sort
  if (!sorted || !by) return found.value
  const way = sorted.order === 'descend' ? -1 : 1
  return found.value
    .map((row) => ({ row, value: by(row) }))
    .sort(({ value: a }, { value: b }) => {
      // What is not known comes last, whichever way.
      if (a === null || b === null) return a === b ? 0 : a === null ? 1 : -1
      return way * (typeof a === 'number' && typeof b === 'number' ? a - b : compare(String(a), String(b)))
    })
    .map(({ row }) => row)
}
const page = computed(() => Math.min(look.page, Math.max(1, Math.ceil(ordered.value.length / pageRows))))
const onPage = computed(() => ordered.value.slice((page.value - 1) * pageRows, page.value * pageRows))
const lines = computed<Line[]>(() => {
  if (!groupOf) return onPage.value.map((row) => ({ row }))
  const titles = [...new Set(onPage.value.map(groupOf))]
  return titles.flatMap((title) => {
    const within = onPage.value.filter((row) => groupOf(row) === title)
    return [{ title, rows: within }, ...within.map((row) => ({ row }))]
  })
})
const keyOfLine = (line: Line) => ('row' in line ? keyOf(line.row) : `heading ${line.title}`)
/** What was chosen and is still there. */
const chosenRows = computed(() => rows.filter((row) => chosen.value.includes(keyOf(row))))
const choose = (keys: readonly string[], on: boolean) => {
  chosen.value = [...chosen.value.filter((key) => !keys.includes(key)), ...(on ? keys : [])]
}
/** The column of ticks: the head ticks what was found, all pages of it. */
const ticks = computed<DataTableColumn<Line>>(() => {
  const keys = ordered.value.map(keyOf)
  const count = keys.filter((key) => chosen.value.includes(key)).length
  return {
    key: 'chosen',
    width: 34,
    title: () =>
      h(NCheckbox, {
        checked: count > 0 && count === keys.length,
        indeterminate: count > 0 && count < keys.length,
        'aria-label': `Choose all: ${label}`,
        onUpdateChecked: (on: boolean) => choose(keys, on),
      }),
    render: (line: Line) =>
      !('row' in line)
        ? (slots.heading?.(line) ?? h('b', line.title))
        : h(NCheckbox, {
            checked: chosen.value.includes(keyOf(line.row)),
            'aria-label': `Choose ${chosenName?.(line.row)}`,
            onUpdateChecked: (on: boolean) => choose([keyOf(line.row)], on),
          }),
    colSpan: (line: Line) => ('row' in line ? 1 : columns.length + 1),
    cellProps: (line: Line) => ('row' in line ? { class: 'tick' } : {}),
  }
})
/** How many of the page are drawn so far; the first rows come after the head. */
const drawn = useTurns(() => lines.value, batchRows, keyOfLine)
/** The screen comes first, then the table on it. */
const stands = useTurns(() => 1)
const shown = computed<DataTableColumn<Line>[]>(() => [
  ...(chosenName ? [ticks.value] : []),
  ...columns.map(({ key, title, width, sort }, index) => {
    const order = look.sorted?.by === key ? look.sorted.order : null
    return {
      key,
      // A head that sorts is a button: the kit's own is reached by mouse alone.
      title: () =>
        sort
          ? h('button', { type: 'button', class: 'sorts' }, [
              title,
              order && h('span', { class: 'visually-hidden' }, orderWords[order]),
            ])
          : title,
      // Drawn wider or narrower at its head's edge.
      resizable: index < columns.length - 1,
      minWidth: 60,
      ...(width === undefined ? {} : { width }),
      ...(sort ? { sorter: true, sortOrder: order ?? (false as const) } : {}),
      render: (line: Line) =>
        'row' in line ? slots[key]?.({ row: line.row }) : (slots.heading?.(line) ?? h('b', line.title)),
      ...(index === 0 && !chosenName
        ? { colSpan: (line: Line) => ('row' in line ? 1 : columns.length) }
        : {}),
      cellProps: (line: Line) =>
        ('row' in line ? (index === 0 ? { 'data-first': '' } : { 'data-col': title }) : {}) as HTMLAttributes,
    }
  }),
])
function sortBy(state: DataTableSortState | null): void {
  look.sorted = state?.order ? { by: String(state.columnKey), order: state.order } : null
  look.page = 1
}
const filter = (text: string) => {
  look.filter = text
  look.page = 1
}
</script>

<template>
  <div
    v-if="rows.length >= filteredFrom && !searched"
    class="flex mb-2.5 gap-3 items-center max-w-85 whitespace-nowrap"
  >
    <NInput
      :value="look.filter"
      clearable
      placeholder="Filter"
      :input-props="{ 'aria-label': `Filter: ${label}` }"
      @update:value="filter"
    />
    <span class="small soft" role="status">{{
      look.filter.trim() ? `${found.length} of ${rows.length}` : `${rows.length}`
    }}</span>
  </div>
  <ChosenBar v-if="chosenRows.length" :count="chosenRows.length" @none="chosen = []">
    <slot name="chosen" :rows="chosenRows" />
  </ChosenBar>
  <NDataTable
    v-if="stands"
    class="list"
    remote
    :columns="shown"
    :data="lines.slice(0, drawn)"
    :row-key="keyOfLine"
    :row-class-name="(line: Line) => ('row' in line ? (leads ? 'leads' : '') : 'heading')"
    :row-props="(line: Line) => ('row' in line ? (rowProps?.(line.row) ?? {}) : {})"
    :bordered="false"
    :single-line="true"
    :pagination="
      ordered.length > pageRows
        ? {
            page,
            pageSize: pageRows,
            itemCount: ordered.length,
            onUpdatePage: (to: number) => (look.page = to),
          }
        : false
    "
    :aria-label="label"
    @update:sorter="sortBy"
  >
    <template #empty>{{ lines.length ? '' : 'No match' }}</template>
  </NDataTable>
</template>
