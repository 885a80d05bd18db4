<script setup lang="ts">
import type { KitEntry } from '@bench-wake/core/ready'

/** Things to take along, each with a box to tick. */
defineProps<{ items: readonly KitEntry[]; wants?: boolean }>()
defineEmits<{ pack: [item: KitEntry, packed: boolean] }>()
</script>

<template>
  <ul class="kit">
    <li v-for="item in items" :key="item.id" :data-item="item.id">
      <label>
        <input
          type="checkbox"
          :checked="item.packed"
          @change="$emit('pack', item, ($event.target as HTMLInputElement).checked)"
        />
        <span>
          <b>{{ item.name }}</b>
          <small class="soft">{{
            [item.essential ? '' : 'good to have', item.why, wants ? item.for.join(', ') : '']
              .filter(Boolean)
              .join(' · ')
          }}</small>
        </span>
      </label>
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
label {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 44px;
  padding: 5px 0;
  cursor: pointer;
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
