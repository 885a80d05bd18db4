<script setup lang="ts">
import { NUpload, type UploadFileInfo } from 'naive-ui'

/** Chooses files with the kit's upload, by what stands in it; all that were chosen at once come together. */
const { label, one, accept, disabled } = defineProps<{
  label: string
  one?: boolean
  accept?: string
  disabled?: boolean
}>()
const emit = defineEmits<{ picked: [files: File[]] }>()

let together: File[] = []
function add({ file }: { file: UploadFileInfo }): void {
  if (!file.file) return
  if (together.length === 0)
    // The kit tells of them one by one, each a tick later than the one before.
    setTimeout(() => {
      emit('picked', together)
      together = []
    })
  together.push(file.file)
}
</script>

<template>
  <NUpload
    :file-list="[]"
    :default-upload="false"
    :show-file-list="false"
    :multiple="!one"
    :disabled="disabled ?? false"
    :input-props="{ 'aria-label': label }"
    v-bind="accept ? { accept } : {}"
    @change="add"
  >
    <slot />
  </NUpload>
</template>

<style scoped>
/* As wide as what stands in it. */
.n-upload {
  width: auto;
}
</style>
