<script setup lang="ts" generic="Row extends object">
import { NDataTable, type DataTableColumn, type DataTableSortState } from 'naive-ui'
import { computed, h, ref, type HTMLAttributes, type VNodeChild } from 'vue'
import type { ListColumn } from './list-column'

/** A list of the kit: sorted by its heads, in pages where it is long, on a phone each figure with its column's name. */
const { rows, columns, keyOf, label } = defineProps<{
  rows: readonly Row[]
  columns: readonly ListColumn<Row>[]
  keyOf: (row: Row) => string
  /** What the list is of, for who does not see it. */
  label: string
}>()
/** A slot for each column, by its key. */
const slots = defineSlots<Record<string, (of: { row: Row }) => VNodeChild>>()

/** Rows beyond which a list goes in pages: each row costs a browser some tenths of a millisecond. */
const pageRows = 200
const sorted = ref<{ by: string; order: 'ascend' | 'descend' } | null>(null)
const orderWords = { ascend: ', lowest first', descend: ', highest first' }

function compare(a: string | number | null, b: string | number | null): number {
  // What is not known comes last, whichever way; the kit turns all that is said here round for "highest first".
  const last = sorted.value?.order === 'descend' ? -1 : 1
  if (a === null || b === null) return a === b ? 0 : a === null ? last : -last
  return typeof a === 'number' && typeof b === 'number'
    ? a - b
    : String(a).localeCompare(String(b), undefined, { numeric: true })
}
const shown = computed<DataTableColumn<Row>[]>(() =>
  columns.map(({ key, title, width, sort }, index) => {
    const order = sorted.value?.by === key ? sorted.value.order : null
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
      ...(sort ? { sorter: (a: Row, b: Row) => compare(sort(a), sort(b)), sortOrder: order ?? false } : {}),
      render: (row: Row) => slots[key]?.({ row }),
      cellProps: () => (index === 0 ? {} : { 'data-col': title }) as HTMLAttributes,
    }
  }),
)
function sortBy(state: DataTableSortState | null): void {
  sorted.value = state?.order ? { by: String(state.columnKey), order: state.order } : null
}
</script>

<template>
  <NDataTable
    class="list"
    :columns="shown"
    :data="[...rows]"
    :row-key="keyOf"
    :row-class-name="() => 'leads'"
    :bordered="false"
    :single-line="true"
    :pagination="rows.length > pageRows ? { pageSize: pageRows / 2 } : false"
    :aria-label="label"
    @update:sorter="sortBy"
  />
</template>
