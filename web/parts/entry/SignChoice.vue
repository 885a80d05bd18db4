<script setup lang="ts">
import type { EntrySign } from '@bench-wake/core/family'

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
  <div class="signs">
    <p v-if="expected" class="small soft">It should: {{ expected.says.toLowerCase() }}.</p>
    <button
      v-for="(sign, index) in signs"
      :key="sign.id"
      type="button"
      class="sign"
      :data-primary="index === 0 || undefined"
      :data-sign="sign.id"
      @click="$emit('saw', sign)"
    >
      {{ sign.says }}
    </button>
    <p v-if="misread" class="fault" role="status">Look again: that is not what it shows.</p>
  </div>
</template>

<style scoped>
.signs {
  display: grid;
  gap: 10px;
  margin-top: 16px;
}
.sign {
  font: inherit;
  font-size: 24px;
  color: inherit;
  background: var(--sheet);
  border: 1.5px solid var(--edge);
  border-radius: 3px;
  min-height: 64px;
  min-width: 140px;
  padding: 8px 16px;
  text-align: left;
  cursor: pointer;
  user-select: none;
}
.sign:hover {
  border-color: var(--brass);
}
</style>
