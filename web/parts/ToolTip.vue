<script setup lang="ts">
import { NTooltip } from 'naive-ui'

/** Names a control that shows only a picture, to who points at it or comes to it by keys. */
const { says } = defineProps<{ says: string }>()
</script>

<template>
  <NTooltip :show-arrow="false" :delay="400" trigger="hover">
    <template #trigger><slot /></template>
    {{ says }}
  </NTooltip>
</template>
