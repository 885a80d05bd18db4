<script setup lang="ts">
import type { OrderItem } from '@bench-wake/core/family'
import { mayTick } from '@bench-wake/core/ready'
import { NCheckbox } from 'naive-ui'
import { written } from '../written'

/** A checked list in order: only the next step can be ticked, each with its caution beside it. */
const done = defineModel<string[]>({ required: true })
const { items, asked = false } = defineProps<{
  items: readonly OrderItem[]
  /** True where the run itself asks for each; the list is then only read. */
  asked?: boolean
}>()
const tick = (id: string, on: boolean) => {
  // What was done after a step that is undone has to be looked at again.
  const at = items.findIndex((item) => item.id === id)
  done.value = on
    ? [...done.value, id]
    : done.value.filter((each) => items.findIndex((item) => item.id === each) < at)
}
</script>

<template>
  <ol class="plain">
    <li v-for="(item, index) in items" :key="item.id" class="min-h-11" :data-item="item.id">
      <NCheckbox
        v-if="!asked"
        size="large"
        :checked="done.includes(item.id)"
        :disabled="!mayTick(items, done, item.id)"
        @update:checked="(on) => tick(item.id, on)"
        >{{ index + 1 }}. {{ item.does }}</NCheckbox
      >
      <p v-else>{{ index + 1 }}. {{ item.does }}</p>
      <p v-if="item.caution" class="caution mb-2 ml-8.5 text-body">
        <b>Caution.</b> {{ written(item.caution) }}
      </p>
    </li>
  </ol>
</template>
