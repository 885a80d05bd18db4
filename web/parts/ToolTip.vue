<script setup lang="ts">
import { onKeyStroke, useTimeoutFn } from '@vueuse/core'
import { defineAsyncComponent, ref, shallowRef } from 'vue'

/** Names a control that shows only a picture, to who points at it or comes to it by keys; Escape takes it away. */
const { says } = defineProps<{ says: string }>()
/** Read as the first one is shown: the start does without it. */
const TipBubble = defineAsyncComponent(() => import('./TipBubble.vue'))
const place = ref<HTMLElement>()
const at = shallowRef<{ x: number; y: number } | null>(null)
const { start, stop } = useTimeoutFn(
  () => {
    const { left, width, bottom } = place.value!.getBoundingClientRect()
    at.value = { x: left + width / 2, y: bottom }
  },
  400,
  { immediate: false },
)
const hide = () => {
  stop()
  at.value = null
}
onKeyStroke('Escape', hide)
</script>

<template>
  <span
    ref="place"
    class="grid"
    @pointerenter="start"
    @pointerleave="hide"
    @focusin="start"
    @focusout="hide"
    @click="hide"
    ><slot /><TipBubble v-if="at" :says="says" v-bind="at"
  /></span>
</template>
