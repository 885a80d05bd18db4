<script setup lang="ts">
import { NUpload, type UploadFileInfo } from 'naive-ui'

/** A file from this computer, by the button in its slot; nothing is sent by itself, and the same file can be chosen again. */
const { label, accept } = defineProps<{ label: string; accept?: string }>()
const emit = defineEmits<{ picked: [file: File] }>()
function take({ file }: { file: UploadFileInfo }): false {
  if (file.file) emit('picked', file.file)
  return false
}
</script>

<template>
  <NUpload
    class="file-pick"
    :show-file-list="false"
    :input-props="{ 'aria-label': label, tabindex: -1 }"
    v-bind="accept ? { accept } : {}"
    @before-upload="take"
  >
    <slot />
  </NUpload>
</template>

<style scoped>
.file-pick {
  width: auto;
}
</style>
