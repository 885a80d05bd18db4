<script setup lang="ts">
import type { KitEntry } from '@bench-wake/core/ready'
import { NCheckbox } from 'naive-ui'
import { reactive, watch } from 'vue'

/** Things to take along, each with a box to tick; a tick stands at once, and falls where it could not be kept. */
const { items, pack } = defineProps<{
  items: readonly KitEntry[]
  wants?: boolean
  /** Keeps it; resolves false where that failed. */
  pack: (item: KitEntry, packed: boolean) => Promise<boolean>
}>()
/** Ticks that the list does not have yet. */
const ticked = reactive(new Map<string, boolean>())
watch(
  () => items,
  () => {
    for (const { id, packed } of items) if (ticked.get(id) === packed) ticked.delete(id)
  },
)
async function tick(item: KitEntry, packed: boolean) {
  ticked.set(item.id, packed)
  if (!(await pack(item, packed))) ticked.delete(item.id)
}
</script>

<template>
  <ul class="plain kit gap-x-8.5 columns-2 phone:columns-1">
    <li v-for="item in items" :key="item.id" class="break-inside-avoid" :data-item="item.id">
      <NCheckbox
        class="py-1.25 px-0 items-center min-h-11"
        :checked="ticked.get(item.id) ?? item.packed"
        @update:checked="tick(item, $event)"
      >
        <b class="font-600">{{ item.name }}</b>
        <small class="soft block small">{{
          [item.essential ? '' : 'good to have', item.why, wants ? item.for.join(', ') : '']
            .filter(Boolean)
            .join(' · ')
        }}</small>
      </NCheckbox>
    </li>
  </ul>
</template>

<style scoped>
@media print {
  .kit {
    columns: 1;
  }
}
</style>
