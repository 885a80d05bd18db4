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
  <div
    class="inline-flex pt-2 pb-1.5 px-3 gap-0.5 bg-sheet frame-ink rounded"
    role="group"
    :aria-label="name"
  >
    <button
      v-for="(wanted, index) in stands"
      :key="index"
      type="button"
      class="lever grid p-0 font-inherit text-inherit bg-transparent bare-border min-w-11 justify-items-center cursor-pointer leading-[1.2]"
      :class="{ on: on(index), unknown: !levers, wrong: levers && on(index) !== wanted }"
      :aria-pressed="on(index)"
      :aria-label="`Lever ${index + 1}, ${levers ? (on(index) ? 'on' : 'off') : 'not looked at'}; it must be ${wanted ? 'on' : 'off'}`"
      :disabled="fixed"
      @click="$emit('flip', index)"
    >
      <svg width="34" height="64" viewBox="0 0 34 64" aria-hidden="true">
        <rect x="6.5" y="6.5" width="21" height="51" class="slot fill-water stroke-ink" />
        <rect v-if="levers" x="8" :y="on(index) ? 8 : 32" width="18" height="24" class="knob fill-hull" />
      </svg>
      <span>{{ index + 1 }}</span>
      <small class="small soft">{{ wanted ? 'on' : 'off' }}</small>
    </button>
  </div>
</template>

<style scoped>
.lever:disabled {
  cursor: default;
}
.wrong .knob {
  fill: var(--stop);
}
.unknown .slot {
  stroke-dasharray: 3 3;
  fill: none;
}
</style>
