<script setup lang="ts">
/** Parts of a screen, one of them open: a line of buttons at its side. */
defineProps<{ parts: readonly { id: string; says: string; wrong?: string }[]; label: string }>()
const open = defineModel<string>({ required: true })
</script>

<template>
  <nav class="grid content-start slim:fill-150" :aria-label="label">
    <button
      v-for="part in parts"
      :key="part.id"
      class="py-1 pl-3 pr-0 font-inherit text-inherit text-left bg-transparent min-h-11 cursor-pointer bare-border bar-transparent"
      type="button"
      :class="{ at: part.id === open }"
      :aria-current="part.id === open ? 'true' : undefined"
      @click="open = part.id"
    >
      {{ part.says }}
      <span v-if="part.wrong" class="block small font-600 text-stop">{{ part.wrong }}</span>
    </button>
  </nav>
</template>

<style scoped>
button.at {
  border-color: var(--brass);
  font-weight: 650;
}
</style>
