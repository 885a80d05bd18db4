<script setup lang="ts">
/** An address switch as it looks from the front, each lever up for on. */
const {
  stands,
  levers,
  name,
  fixed = false,
} = defineProps<{
  /** How it must stand. */
  stands: readonly boolean[]
  /** How it stands; null while nobody looked. */
  levers: readonly boolean[] | null
  name: string
  fixed?: boolean
}>()
defineEmits<{ flip: [index: number] }>()
const on = (index: number) => (levers ? levers[index] === true : false)
</script>

<template>
  <div class="switch" role="group" :aria-label="name">
    <button
      v-for="(wanted, index) in stands"
      :key="index"
      type="button"
      class="lever"
      :class="{ on: on(index), unknown: !levers, wrong: levers && on(index) !== wanted }"
      :aria-pressed="on(index)"
      :aria-label="`Lever ${index + 1}, ${levers ? (on(index) ? 'on' : 'off') : 'not looked at'}; it must be ${wanted ? 'on' : 'off'}`"
      :disabled="fixed"
      @click="$emit('flip', index)"
    >
      <svg width="34" height="64" viewBox="0 0 34 64" aria-hidden="true">
        <rect x="6.5" y="6.5" width="21" height="51" class="slot" />
        <rect v-if="levers" x="8" :y="on(index) ? 8 : 32" width="18" height="24" class="knob" />
      </svg>
      <span>{{ index + 1 }}</span>
      <small>{{ wanted ? 'on' : 'off' }}</small>
    </button>
  </div>
</template>

<style scoped>
.switch {
  display: inline-flex;
  gap: 2px;
  padding: 8px 12px 6px;
  border: 1.5px solid var(--ink);
  border-radius: 3px;
  background: var(--sheet);
}
.lever {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  min-width: 44px;
  padding: 0;
  display: grid;
  justify-items: center;
  cursor: pointer;
  line-height: 1.2;
}
.lever:disabled {
  cursor: default;
}
small {
  font-size: 13px;
  color: var(--soft);
}
.slot {
  fill: var(--water);
  stroke: var(--ink);
}
.knob {
  fill: var(--hull);
}
.wrong .knob {
  fill: var(--stop);
}
.unknown .slot {
  stroke-dasharray: 3 3;
  fill: none;
}
</style>
