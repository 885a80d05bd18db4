<script setup lang="ts">
import type { AdapterFacts } from '@bench-wake/core/link'
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

/** What a programmer adapter says of itself and can be used for; nothing at its far end is touched. */
const { port, name } = defineProps<{ port: string; name: string }>()
const facts = ref<AdapterFacts | null>(null)
const asking = useAsked()
const ask = () =>
  asking.ask(async () => {
    facts.value = await got<AdapterFacts>(api.ports.adapter.$post({ json: { port } }))
  })
const does = { 'serial-wire': 'debug port by serial wire', lines: 'chip on a clip, six-line port' } as const
const lines = computed(() => {
  const said = facts.value
  if (!said) return []
  return [
    [said.maker, said.product].filter(Boolean).join(' ') || 'An adapter without a name',
    [said.serial && `serial ${said.serial}`, said.firmware && `firmware ${said.firmware}`]
      .filter(Boolean)
      .join(', '),
    said.can.length > 0
      ? `Can: ${said.can.map((each) => does[each]).join('; ')}`
      : 'It says of nothing that it can do it.',
  ].filter((line) => line !== '')
})
</script>

<template>
  <div class="says mt-1.5" aria-live="polite">
    <NButton
      v-if="!facts"
      size="small"
      :loading="asking.busy.value"
      :aria-label="`What ${name} can do`"
      @click="ask"
      >What can it do?</NButton
    >
    <small v-for="line in lines" :key="line">{{ line }}</small>
    <ProblemNote v-if="asking.problem.value" :problem="asking.problem.value" />
  </div>
</template>
