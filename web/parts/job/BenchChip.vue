<script setup lang="ts">
import { NCheckbox } from 'naive-ui'
import { computed, inject } from 'vue'
import { benchDesk } from './bench-inputs'

/** What a person may want of a write to a chip. */
const desk = inject(benchDesk)!
const only = computed({
  get: () => desk.say.onlyChanged ?? false,
  set: (on: boolean) => desk.tell('onlyChanged', on),
})
</script>

<template>
  <p class="chip mt-3.5">
    <NCheckbox v-model:checked="only">Erase and write only the blocks that differ</NCheckbox>
    <small class="block ml-6.5"
      >The chip is read first; every byte is compared at the end all the same.</small
    >
  </p>
</template>
