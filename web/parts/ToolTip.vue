<script setup lang="ts">
import { onKeyStroke, useTimeoutFn } from '@vueuse/core'
import { NTooltip } from 'naive-ui'
import { ref } from 'vue'

/** Names a control that shows only a picture, to who points at it or comes to it by keys; Escape takes it away. */
const { says } = defineProps<{ says: string }>()
const shown = ref(false)
const { start, stop } = useTimeoutFn(() => (shown.value = true), 400, { immediate: false })
const hide = () => {
  stop()
  shown.value = false
}
onKeyStroke('Escape', hide)
</script>

<template>
  <NTooltip trigger="manual" :show="shown" :show-arrow="false">
    <template #trigger>
      <span
        class="grid"
        @pointerenter="start"
        @pointerleave="hide"
        @focusin="start"
        @focusout="hide"
        @click="hide"
        ><slot
      /></span>
    </template>
    {{ says }}
  </NTooltip>
</template>
