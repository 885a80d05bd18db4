<script lang="ts">
/** Looks at lists, by what they are of. */
const looks = new Map<string, object>()
const collator = new Intl.Collator(undefined, { numeric: true })
</script>

<script setup lang="ts" generic="Row extends object">
import { NDataTable, NInput, type DataTableColumn, type DataTableSortState } from 'naive-ui'
import { computed, h, onScopeDispose, reactive, ref, watch, type HTMLAttributes, type VNodeChild } from 'vue'
import type { ListColumn } from './list-column'

/** A list of the kit: sorted by its heads, in pages where it is long, on a phone each figure with its column's name. */
const {
  rows,
  columns,
  keyOf,
  label,
  searched = false,
} = defineProps<{
  rows: readonly Row[]
  columns: readonly ListColumn<Row>[]
  keyOf: (row: Row) => string
  /** What the list is of, for who does not see it. */
  label: string
  /** It is searched by a field of its screen's own. */
  searched?: boolean
}>()
/** A slot for each column, by its key. */
const slots = defineSlots<Record<string, (of: { row: Row }) => VNodeChild>>()

/** Rows of a page: each costs a browser some milliseconds. */
const pageRows = 50
/** A list that is longer than a look has a field to filter it by. */
const filteredFrom = 15
/** Rows that are drawn at a time: a key pressed meanwhile is answered between two of them. */
const batchRows = 12
const orderWords = { ascend: ', lowest first', descend: ', highest first' }

/** What was looked for, and how it was sorted, is there again when a person comes back. */
interface Look {
  filter: string
  page: number
  sorted: { by: string; order: 'ascend' | 'descend' } | null
}
const look = reactive<Look>((looks.get(label) as Look | undefined) ?? { filter: '', page: 1, sorted: null })
looks.set(label, look)

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
const ordered = computed<readonly Row[]>(() => {
  const { sorted } = look
  const by = columns.find(({ key }) => key === sorted?.by)?.sort
  if (!sorted || !by) return found.value
  const way = sorted.order === 'descend' ? -1 : 1
  return found.value
    .map((row) => ({ row, value: by(row) }))
    .sort(({ value: a }, { value: b }) => {
      // What is not known comes last, whichever way.
      if (a === null || b === null) return a === b ? 0 : a === null ? 1 : -1
      return (
        way *
        (typeof a === 'number' && typeof b === 'number' ? a - b : collator.compare(String(a), String(b)))
      )
    })
    .map(({ row }) => row)
})
const page = computed(() => Math.min(look.page, Math.max(1, Math.ceil(ordered.value.length / pageRows))))
const onPage = computed(() => ordered.value.slice((page.value - 1) * pageRows, page.value * pageRows))
/** How many of the page are drawn so far. */
const drawn = ref(batchRows)
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  onPage,
  ({ length }) => {
    clearTimeout(timer)
    drawn.value = Math.min(drawn.value, batchRows)
    const more = () => {
      if (drawn.value >= length) return
      drawn.value += batchRows
      timer = setTimeout(more)
    }
    timer = setTimeout(more)
  },
  { immediate: true },
)
onScopeDispose(() => clearTimeout(timer))
const shown = computed<DataTableColumn<Row>[]>(() =>
  columns.map(({ key, title, width, sort }, index) => {
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
      ...(width === undefined ? {} : { width }),
      ...(sort ? { sorter: true, sortOrder: order ?? (false as const) } : {}),
      render: (row: Row) => slots[key]?.({ row }),
      cellProps: () => (index === 0 ? {} : { 'data-col': title }) as HTMLAttributes,
    }
  }),
)
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
  <div v-if="rows.length >= filteredFrom && !searched" class="filter">
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
  <NDataTable
    class="list"
    remote
    :columns="shown"
    :data="onPage.slice(0, drawn)"
    :row-key="keyOf"
    :row-class-name="() => 'leads'"
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
    <template #empty>No match</template>
  </NDataTable>
</template>

<style scoped>
.filter {
  display: flex;
  align-items: center;
  gap: 12px;
  max-width: 340px;
  margin-bottom: 10px;
  white-space: nowrap;
}
</style>
