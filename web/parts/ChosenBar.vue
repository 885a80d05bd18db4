<script setup lang="ts">
import { NButton } from 'naive-ui'

/** How many rows of a list are chosen, what can be done with them together, and the way out of it. */
const { count } = defineProps<{ count: number }>()
const emit = defineEmits<{ none: [] }>()
</script>

<template>
  <div class="acts my-2 py-1.5 px-3.5 bg-sheet bar-brass" role="status">
    <b>{{ count }} chosen</b>
    <slot />
    <NButton quaternary @click="emit('none')">None</NButton>
  </div>
</template>
