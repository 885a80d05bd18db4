<script setup lang="ts">
import type { JobView } from '@bench-wake/server'
import { NButton, NForm, NFormItem, NInput } from 'naive-ui'
import { computed, reactive } from 'vue'
import type { BenchDesk } from './bench-inputs'

/** A chip that came ready programmed: what stands on it is all that tells which one went in. */
const { view, desk } = defineProps<{ view: JobView; desk: BenchDesk }>()
const emit = defineEmits<{ said: [] }>()
const form = reactive({
  label: desk.say.chip?.label ?? '',
  mark: desk.say.chip?.mark ?? '',
  version: desk.say.chip?.version ?? '',
})
const ready = computed(() => form.label.trim() !== '' && form.mark.trim() !== '')
const keep = async () => {
  const version = form.version.trim()
  const said = {
    label: form.label.trim(),
    mark: form.mark.trim(),
    ...(version ? { version } : {}),
  }
  desk.tell('chip', said)
  await desk.flush()
  emit('said')
}
</script>

<template>
  <p class="where">Chip, for {{ view.unit.name }}</p>
  <h2 class="say">Note what stands on the chip.</h2>
  <p class="lead">No image of it is here: its label and its maker’s mark are kept with the record.</p>
  <NForm @submit.prevent="keep">
    <NFormItem label="Its label, as it is written">
      <NInput
        v-model:value="form.label"
        :input-props="{ 'aria-label': 'Label of the chip' }"
        placeholder=""
      />
    </NFormItem>
    <NFormItem label="Maker’s mark on its back">
      <NInput v-model:value="form.mark" :input-props="{ 'aria-label': 'Mark of the chip' }" placeholder="" />
    </NFormItem>
    <NFormItem label="Version it should show, where the label says one">
      <NInput
        v-model:value="form.version"
        :input-props="{ 'aria-label': 'Version on the label' }"
        placeholder=""
      />
    </NFormItem>
    <NButton data-primary type="primary" size="large" attr-type="submit" :disabled="!ready">Go on</NButton>
  </NForm>
</template>
