<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { checkFamily } from '@bench-wake/core/family'
import { operationTrials, scripted, trialText } from '@bench-wake/core/ready'
import { computed, inject } from 'vue'
import VerdictMark from '../VerdictMark.vue'
import { profileForm } from './profile-form'

/** Where an operation of a link was proved, as its steps stand on the page now. */
const { linkId, operation } = defineProps<{ linkId: string; operation: string }>()
const form = inject(profileForm)!
const trial = computed(() => {
  const { family } = checkFamily(form.document.value as FamilyDocument)
  const link = scripted(family?.links.find(({ id }) => id === linkId))
  if (!link || !form.trials.value) return null
  return operationTrials(link, form.trials.value).find((each) => each.operation === operation) ?? null
})
</script>

<template>
  <p v-if="trial" class="small trial">
    <VerdictMark :verdict="trial.state === 'proved' ? 'go' : 'hold'" :size="11" quiet />
    {{ trialText(trial) }}
  </p>
</template>

<style scoped>
.trial {
  margin: 0 0 4px;
}
</style>
