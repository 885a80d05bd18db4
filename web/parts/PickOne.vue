<script setup lang="ts" generic="T extends string | number | null">
import { NSelect } from 'naive-ui'
import { nextTick, onMounted, ref, shallowRef, watch } from 'vue'

/** The kit's select with a name that a screen reader says: it puts none on what takes the focus. */
const { label, options, placeholder, filterable, tag, disabled } = defineProps<{
  label: string
  options: readonly { value: string | number; label: string }[]
  placeholder?: string
  filterable?: boolean
  tag?: boolean
  disabled?: boolean
}>()
const value = defineModel<T>('value', { required: true })
const box = ref<HTMLElement>()
const shown = ref(false)

/** As they stand: the kit begins an open list anew with every new array, and what was gone down to is lost. */
const list = shallowRef([...options])
let changedAt = -Infinity
watch(
  () => options,
  (now) => {
    if (JSON.stringify(now) === JSON.stringify(list.value)) return
    list.value = [...now]
    changedAt = performance.now()
  },
)
/** A list that has just changed under the hand takes no Enter for so long, ms: it would choose another than was seen. */
const settlesMs = 400
const notYet = (event: KeyboardEvent) => {
  if (event.key !== 'Enter' || !shown.value || performance.now() - changedAt > settlesMs) return
  event.preventDefault()
  event.stopPropagation()
}

function name(): void {
  const parts = [...(box.value?.querySelectorAll<HTMLElement>('input, [tabindex]') ?? [])]
  for (const part of parts) part.setAttribute('aria-label', label)
  const taken = parts.find(({ tabIndex }) => tabIndex >= 0) ?? parts[0]
  taken?.setAttribute('role', 'combobox')
  taken?.setAttribute('aria-haspopup', 'listbox')
  taken?.setAttribute('aria-expanded', String(shown.value))
}
onMounted(() => nextTick(name))
watch([shown, () => label], () => nextTick(name))
</script>

<template>
  <div ref="box" class="pick wide min-w-0" @keydown.capture="notYet">
    <NSelect
      v-model:value="value"
      v-model:show="shown"
      :options="list"
      :placeholder="placeholder ?? 'Choose'"
      :filterable="filterable ?? false"
      :tag="tag ?? false"
      :virtual-scroll="options.length > 60"
      :disabled="disabled ?? false"
    />
  </div>
</template>
