<script setup lang="ts">
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { useLook } from '../../stores/look'
import ChosenBar from '../ChosenBar.vue'
import PickDay from '../PickDay.vue'

/** Jobs that were chosen are moved to another day together, under a name. */
const { count, busy } = defineProps<{ count: number; busy: boolean }>()
const emit = defineEmits<{ move: [day: string, by: string]; none: [] }>()
const look = useLook()
const day = ref<string | null>(null)
</script>

<template>
  <ChosenBar :count="count" @none="emit('none')">
    <PickDay v-model:day="day" class="w-45" aria-label="The other day" />
    <NInput
      v-model:value="look.name"
      class="w-50"
      placeholder="Who moves them"
      :input-props="{ 'aria-label': 'Who moves them', autocomplete: 'name' }"
    />
    <NButton
      :loading="busy"
      :disabled="!day || !look.name.trim()"
      @click="emit('move', day!, look.name.trim())"
      >Move to that day</NButton
    >
  </ChosenBar>
</template>
