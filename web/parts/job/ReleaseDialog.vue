<script setup lang="ts">
import type { Finding } from '@bench-wake/core/kernel'
import { NButton, NInput, NModal } from 'naive-ui'
import { reactive, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { written } from '../written'

/** One person answers for one hold, by name and reason; both stay with the job. */
const { jobId } = defineProps<{ jobId: string }>()
const emit = defineEmits<{ released: [] }>()
const look = useLook()
const releasing = ref<Finding | null>(null)
const word = reactive({ name: look.name, reason: '' })
const open = ref(false)
const { problem, ask: keep } = useAsked()

defineExpose({
  /** @param reason what was said when an earlier state of it was released. */
  ask(finding: Finding | undefined, reason = '') {
    releasing.value = finding ?? null
    word.reason = reason
    open.value = true
  },
})

const release = () =>
  keep(async () => {
    if (!releasing.value || !word.name.trim() || !word.reason.trim()) return
    look.name = word.name.trim()
    const { rule, says } = releasing.value
    await got(
      api.jobs[':id'].releases.$post({
        param: { id: jobId },
        json: { rule, says, name: word.name.trim(), reason: word.reason.trim() },
      }),
    )
    word.reason = ''
    open.value = false
    emit('released')
  })
</script>

<template>
  <NModal v-model:show="open" preset="card" class="release" title="Release a hold">
    <form class="grid gap-3 justify-items-start" @submit.prevent="release">
      <p class="small soft">
        {{ written(releasing?.says) }} Your name and the reason stay with the job and go into the wake of
        every leg.
      </p>
      <NInput
        v-model:value="word.name"
        placeholder="Your name"
        :input-props="{ 'aria-label': 'Your name' }"
      />
      <NInput
        v-model:value="word.reason"
        placeholder="Why it may pass"
        :input-props="{ 'aria-label': 'Reason' }"
      />
      <NButton attr-type="submit" type="primary" :disabled="!word.name.trim() || !word.reason.trim()"
        >Release the hold</NButton
      >
      <NButton quaternary @click="open = false">Cancel</NButton>
      <ProblemNote v-if="problem" :problem="problem" />
    </form>
  </NModal>
</template>

<style>
/* The kit puts a dialog at the end of the page, out of reach of this part's own rules. */
.release {
  width: min(560px, calc(100vw - 32px));
}
</style>
