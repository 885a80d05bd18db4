<script setup lang="ts">
import { tryable } from '@bench-wake/core/link'
import { NInput } from 'naive-ui'
import { computed, inject, ref, watch } from 'vue'
import TrialMark from './TrialMark.vue'
import TryOperation from './TryOperation.vue'
import { labelOf, placeText, profileForm, stepsText, valueAt, type FieldSchema } from './profile-form'

/**
 * A part of a profile that is quicker written than filled in: the steps of a link's operation, a checksum. One step a
 * line; what is no JSON yet stays as it was typed and changes nothing, and each fault stands below with its place.
 */
const {
  schema,
  path,
  required = true,
} = defineProps<{
  schema: FieldSchema
  path: readonly string[]
  required?: boolean
}>()
const form = inject(profileForm)!
const value = computed(() => valueAt(form.document.value, path))
const written = (it: unknown) => {
  if (it === undefined) return ''
  return Array.isArray(it) ? stepsText(it) : JSON.stringify(it)
}
const text = ref(written(value.value))
const unread = ref('')
let own = value.value
watch(value, (now) => {
  // Changed from elsewhere: undo, another file.
  if (now !== own) {
    own = now
    text.value = written(now)
    unread.value = ''
  }
})
const id = computed(() => `field-${path.join('.')}`)
const label = computed(() => labelOf(path[path.length - 1] ?? ''))
const faults = computed(() => form.faultsIn(path))
function typed(now: string) {
  text.value = now
  if (now.trim() === '') {
    own = required ? [] : undefined
    unread.value = ''
    form.set(path, own)
    return
  }
  try {
    own = JSON.parse(now) as unknown
    unread.value = ''
    form.set(path, own)
  } catch (error) {
    unread.value = `This is no JSON yet: ${(error as Error).message} The profile has it as it was before.`
  }
}
/** An operation of a link: which, and of which link. */
const marked = computed(() => {
  const [links, index, drive, operations, operation, steps] = path
  if (links !== 'links' || drive !== 'drive' || operations !== 'operations' || steps !== 'steps') return null
  const link = valueAt(form.document.value, ['links', index!]) as { id?: string } | undefined
  return operation && link?.id ? { operation, linkId: link.id } : null
})
/** The same, where it may be tried by itself. */
const tried = computed(() => {
  const operation = tryable.find((each) => each === marked.value?.operation)
  return operation && marked.value ? { operation, linkId: marked.value.linkId } : null
})
</script>

<template>
  <label class="json grid py-1.5 gap-1">
    <span>{{ label }}<small v-if="!required"> if any</small></span>
    <NInput
      :value="text"
      type="textarea"
      class="mono"
      :autosize="{ minRows: 2, maxRows: 24 }"
      v-bind="unread || faults.length ? { status: 'error' as const } : {}"
      :input-props="{ id, 'aria-describedby': `${id}-fault`, spellcheck: false }"
      @update:value="typed"
    />
    <small v-if="schema.description" class="soft">{{ schema.description }}</small>
    <span :id="`${id}-fault`">
      <small v-if="unread" class="fault block">{{ unread }}</small>
      <small v-for="fault in faults" :key="fault.at + fault.says" class="fault block"
        ><span class="mono">{{ placeText(fault.at) }}</span> {{ fault.says }}</small
      >
    </span>
  </label>
  <TrialMark v-if="marked" :link-id="marked.linkId" :operation="marked.operation" />
  <TryOperation
    v-if="tried && !unread && faults.length === 0"
    :document="form.document.value"
    :link-id="tried.linkId"
    :operation="tried.operation"
  />
</template>

<style scoped>
.json > span:first-child {
  color: var(--soft);
}
</style>
