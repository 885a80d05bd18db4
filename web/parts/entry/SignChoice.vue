<script setup lang="ts">
import type { EntrySign } from '@bench-wake/core/family'
import { written } from '../written'

/** What the unit shows, to be chosen by who stands before it. */
defineProps<{
  signs: readonly EntrySign[]
  /** The sign of success, where it is said beforehand. */
  expected: EntrySign | undefined
  /** The person took another sign for it. */
  misread: boolean
}>()
defineEmits<{ saw: [sign: EntrySign] }>()
</script>

<template>
  <div class="grid mt-4 gap-2.5">
    <p v-if="expected" class="small soft">It should: {{ written(expected.says.toLowerCase()) }}.</p>
    <button
      v-for="(sign, index) in signs"
      :key="sign.id"
      type="button"
      class="sign py-2 px-4 font-inherit text-large text-inherit bg-sheet min-h-16 min-w-35 text-left cursor-pointer frame-edge rounded select-none"
      :data-primary="index === 0 || undefined"
      :data-sign="sign.id"
      @click="$emit('saw', sign)"
    >
      {{ written(sign.says) }}
    </button>
    <p v-if="misread" class="fault" role="status">Look again: that is not what it shows.</p>
  </div>
</template>

<style scoped>
.sign:hover {
  border-color: var(--brass);
}
</style>
