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
  <ul class="kit">
    <li v-for="item in items" :key="item.id" :data-item="item.id">
      <NCheckbox
        class="item"
        :checked="ticked.get(item.id) ?? item.packed"
        @update:checked="tick(item, $event)"
      >
        <b>{{ item.name }}</b>
        <small class="soft">{{
          [item.essential ? '' : 'good to have', item.why, wants ? item.for.join(', ') : '']
            .filter(Boolean)
            .join(' · ')
        }}</small>
      </NCheckbox>
    </li>
  </ul>
</template>

<style scoped>
.kit {
  list-style: none;
  margin: 0;
  padding: 0;
  columns: 2;
  column-gap: 34px;
}
li {
  break-inside: avoid;
}
.item {
  align-items: center;
  min-height: 44px;
  padding: 5px 0;
}
b {
  font-weight: 600;
}
small {
  display: block;
  font-size: 13px;
}
@media (max-width: 700px) {
  .kit {
    columns: 1;
  }
}
@media print {
  .kit {
    columns: 1;
  }
}
</style>
