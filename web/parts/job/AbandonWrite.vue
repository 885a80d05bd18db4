<script setup lang="ts">
import { NButton } from 'naive-ui'
import { ref, useTemplateRef } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { useSettled } from '../useSettled'

/** Leaves a write half way: first it says what that leaves behind, and only a second word does it. */
const { id } = defineProps<{ id: string }>()
const abandoning = useAsked()
const leaving = ref<{ token: string; leaves: string; next: string } | null>(null)
const abandon = () =>
  abandoning.ask(async () => {
    leaving.value = await got(
      api.runs[':id'].abandon.$post({
        param: { id },
        json: leaving.value ? { token: leaving.value.token } : {},
      }),
    )
  })
/** The second word is a press of its own; the focus begins at what does nothing. */
const keep = useTemplateRef<{ $el: HTMLElement }>('keep')
const unread = useSettled(
  () => leaving.value?.token,
  () => keep.value?.$el.focus(),
)
</script>

<template>
  <div class="mt-3">
    <template v-if="leaving">
      <p><b>This leaves it behind:</b> {{ leaving.leaves }} {{ leaving.next }}</p>
      <div class="acts">
        <NButton :loading="abandoning.busy.value" :disabled="unread" @click="abandon"
          >Abandon it half written</NButton
        >
        <NButton ref="keep" type="primary" @click="leaving = null">Keep writing</NButton>
      </div>
    </template>
    <button
      v-else
      class="p-0 font-inherit small soft bg-transparent bare-border min-h-11 underline cursor-pointer"
      type="button"
      @click="abandon"
    >
      Abandon this write…
    </button>
    <ProblemNote v-if="abandoning.problem.value" :problem="abandoning.problem.value" />
  </div>
</template>
