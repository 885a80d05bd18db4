<script setup lang="ts">
/** Parts of a screen, one of them open: a line of buttons at its side. */
defineProps<{ parts: readonly { id: string; says: string; wrong?: string }[]; label: string }>()
const open = defineModel<string>({ required: true })
</script>

<template>
  <nav :aria-label="label">
    <button
      v-for="part in parts"
      :key="part.id"
      type="button"
      :class="{ at: part.id === open }"
      :aria-current="part.id === open ? 'true' : undefined"
      @click="open = part.id"
    >
      {{ part.says }}
      <span v-if="part.wrong" class="wrong">{{ part.wrong }}</span>
    </button>
  </nav>
</template>

<style scoped>
nav {
  display: grid;
  align-content: start;
}
button {
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 0;
  border-left: 3px solid transparent;
  min-height: 44px;
  padding: 4px 0 4px 12px;
  cursor: pointer;
}
button.at {
  border-color: var(--brass);
  font-weight: 650;
}
.wrong {
  display: block;
  font-size: 13px;
  font-weight: 600;
  color: var(--stop);
}
@media (max-width: 1000px) {
  nav {
    grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  }
}
</style>
