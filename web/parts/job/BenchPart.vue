<script setup lang="ts">
import { heaviestFirst, type Finding, type Release } from '@bench-wake/core/kernel'
import type { Gate } from '@bench-wake/core/ready'
import { computed, ref, watch } from 'vue'
import FindingList from '../FindingList.vue'
import VerdictMark from '../VerdictMark.vue'
import { verdictWords } from '../words'
import { written } from '../written'

/** One part of the bench: its verdict and its first finding in a line; what it is made of below, when it is opened. */
const {
  gate,
  name,
  first = false,
  releases = [],
  shown,
} = defineProps<{
  gate: Gate | undefined
  name: string
  /** True while the one next thing lies in this part. */
  first?: boolean
  /** What is said above already. */
  shown?: Finding | undefined
  releases?: readonly Release[]
}>()
defineEmits<{ release: [rule: string] }>()
const notGo = computed(() => gate?.findings.filter(({ level }) => level !== 'go') ?? [])
const listed = computed(() => notGo.value.filter((finding) => finding !== shown))
const held = computed(() => notGo.value.filter(({ level }) => level !== 'note').length)
const heaviest = computed(() => (gate ? heaviestFirst(gate.findings)[0] : undefined))
const verdict = computed(() => gate?.verdict ?? 'unknown')
const open = ref(false)
/** The part in which the one next thing lies opens by itself; what a person opened or closed stays so. */
const touched = ref(false)
watch(
  () => first,
  (now) => {
    if (!touched.value && now) open.value = true
  },
  { immediate: true },
)
const toggled = (event: Event) => {
  open.value = (event.target as HTMLDetailsElement).open
}
</script>

<template>
  <details
    class="part line-t"
    v-bind="{ open }"
    :data-part="gate?.id"
    :data-verdict="verdict"
    :data-first="first || undefined"
    @toggle="toggled"
  >
    <summary
      class="grid pt-2.75 pb-2.25 gap-3 grid-cols-[14px_118px_62px_minmax(0,1fr)] items-baseline min-h-11 cursor-pointer list-none phone:grid-cols-[14px_1fr_auto]"
      @click="touched = true"
    >
      <VerdictMark :verdict="verdict" quiet />
      <b>{{ name }}</b>
      <span class="word soft">{{ verdictWords[verdict] }}</span>
      <span class="first soft"
        >{{ written(heaviest?.says ?? 'Judging…') }}{{ held > 1 ? ` And ${held - 1} more.` : '' }}</span
      >
    </summary>
    <div v-if="open" data-inside class="pb-4.5 pl-6.5 phone:pl-0">
      <slot />
      <FindingList
        v-if="listed.length"
        :findings="listed"
        :releases="releases"
        releasable
        @release="$emit('release', $event)"
      />
      <details v-if="gate && gate.findings.length > notGo.length">
        <summary class="fold small soft">
          {{ gate.findings.length - notGo.length }}
          {{ gate.findings.length - notGo.length === 1 ? 'condition holds' : 'conditions hold' }}
        </summary>
        <FindingList :findings="gate.findings.filter(({ level }) => level === 'go')" />
      </details>
    </div>
  </details>
</template>

<style scoped>
.part > summary::-webkit-details-marker {
  display: none;
}
[data-verdict='stop'] > summary .word {
  color: var(--stop);
  font-weight: 600;
}
[data-verdict='hold'] > summary .word {
  color: var(--hold);
  font-weight: 600;
}
@media (max-width: 700px) {
  .first {
    grid-column: 2 / -1;
  }
}
</style>
