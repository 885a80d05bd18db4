<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { NPopconfirm } from 'naive-ui'
import { nextTick, ref, watch } from 'vue'

/**
 * Asks once more before what cannot be undone. The kit's question with the keys of an alert dialog (ARIA Authoring
 * Practices): it takes the focus at what does nothing, Tab stays within, Escape closes, and the focus goes back.
 */
const emit = defineEmits<{ yes: [] }>()
const shown = ref(false)
const says = ref<HTMLElement>()
let came: HTMLElement | null = null
const panel = () => says.value?.closest<HTMLElement>('.n-popconfirm__panel')
const buttons = () => [...(panel()?.querySelectorAll<HTMLElement>('button') ?? [])]
watch(shown, async (now) => {
  if (!now) {
    came?.focus()
    return
  }
  came = document.activeElement instanceof HTMLElement ? document.activeElement : null
  await nextTick()
  panel()?.setAttribute('role', 'alertdialog')
  panel()?.setAttribute('aria-label', says.value?.textContent ?? '')
  buttons()[0]?.focus()
})
useEventListener(
  'keydown',
  (event) => {
    if (!shown.value || (event.key !== 'Escape' && event.key !== 'Tab')) return
    event.preventDefault()
    event.stopPropagation()
    if (event.key === 'Escape') {
      shown.value = false
      return
    }
    const all = buttons()
    const at = all.indexOf(document.activeElement as HTMLElement)
    all[(at + (event.shiftKey ? all.length - 1 : 1)) % all.length]?.focus()
  },
  { capture: true },
)
</script>

<template>
  <NPopconfirm v-model:show="shown" @positive-click="emit('yes')">
    <template #trigger><slot name="trigger" /></template>
    <span ref="says"><slot /></span>
  </NPopconfirm>
</template>
