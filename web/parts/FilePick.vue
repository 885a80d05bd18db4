<script setup lang="ts">
import { NUpload, type UploadFileInfo } from 'naive-ui'

/**
 * Files from this computer, by the button in its slot; nothing is sent by itself, and the same file can be chosen again.
 * Several that were chosen at once come together, as `all`.
 */
const {
  label,
  accept,
  multiple = false,
  disabled = false,
} = defineProps<{ label: string; accept?: string; multiple?: boolean; disabled?: boolean }>()
const emit = defineEmits<{ picked: [file: File]; all: [files: File[]] }>()

let together: File[] = []
function take({ file }: { file: UploadFileInfo }): false {
  if (!file.file) return false
  emit('picked', file.file)
  // The kit tells of them one by one.
  if (together.length === 0)
    setTimeout(() => {
      emit('all', together)
      together = []
    })
  together.push(file.file)
  return false
}
</script>

<template>
  <NUpload
    class="w-auto"
    :show-file-list="false"
    :multiple="multiple"
    :disabled="disabled"
    :input-props="{ 'aria-label': label, tabindex: -1 }"
    v-bind="accept ? { accept } : {}"
    @before-upload="take"
  >
    <slot />
  </NUpload>
</template>
