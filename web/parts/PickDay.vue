<script setup lang="ts">
import { NDatePicker } from 'naive-ui'

/** A day, typed or chosen, as `2026-11-24`; null for none. */
const { clearable = false } = defineProps<{ clearable?: boolean }>()
const day = defineModel<string | null>('day', { required: true })
</script>

<template>
  <NDatePicker
    v-model:formatted-value="day"
    value-format="yyyy-MM-dd"
    placeholder=""
    :clearable="clearable"
    :input-readonly="false"
  />
</template>
