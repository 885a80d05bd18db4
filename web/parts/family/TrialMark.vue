<script setup lang="ts">
import { trialText } from '@bench-wake/core/ready'
import { computed, inject } from 'vue'
import VerdictMark from '../VerdictMark.vue'
import { profileForm } from './profile-form'

/** Where an operation of a link was proved, as its steps stand on the page now. */
const { linkId, operation } = defineProps<{ linkId: string; operation: string }>()
const form = inject(profileForm)!
const trial = computed(() => form.trials.value.get(linkId)?.find((each) => each.operation === operation))
</script>

<template>
  <p v-if="trial" class="small trial mb-1">
    <VerdictMark :verdict="trial.state === 'proved' ? 'go' : 'hold'" :size="11" quiet />
    {{ trialText(trial) }}
  </p>
</template>
