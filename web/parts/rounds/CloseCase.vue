<script setup lang="ts">
import { NButton, NInput } from 'naive-ui'
import { ref } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

/** What came of a case, in a word and a sentence. */
const { caseId } = defineProps<{ caseId: string }>()
const emit = defineEmits<{ closed: [] }>()
const look = useLook()
const { busy, problem, ask } = useAsked()

const closing = ref(false)
const outcome = ref<'reached' | 'mechanical' | 'given-up'>('reached')
const closingSays = ref('')
const outcomes = [
  { value: 'reached' as const, label: 'The aim is reached' },
  { value: 'mechanical' as const, label: 'A mechanical fault was found' },
  { value: 'given-up' as const, label: 'Given up' },
]
const close = () =>
  ask(async () => {
    await got(
      api.cases[':id'].close.$post({
        param: { id: caseId },
        json: { by: look.name || 'Somebody', outcome: outcome.value, says: closingSays.value.trim() },
      }),
    )
    emit('closed')
  })
</script>

<template>
  <p v-if="!closing" class="-mt-1.5">
    <button class="textlike" type="button" @click="closing = true">Close the case</button>
  </p>
  <form v-else class="take grid gap-3 justify-items-start w-full" @submit.prevent="close">
    <h3>Close the case</h3>
    <ProblemNote v-if="problem" :problem="problem" />
    <PickOne v-model:value="outcome" label="What came of it" :options="outcomes" />
    <NInput
      v-model:value="closingSays"
      placeholder="What it does now, what was found"
      :input-props="{ 'aria-label': 'What came of it, in words' }"
      :maxlength="1000"
    />
    <div class="acts gap-3">
      <NButton attr-type="submit" type="primary" :loading="busy" :disabled="!closingSays.trim()"
        >Close the case</NButton
      >
      <NButton quaternary @click="closing = false">Cancel</NButton>
    </div>
  </form>
</template>

<style scoped>
.take > .n-input {
  width: 100%;
}
</style>
