<script setup lang="ts">
import { heaviestFirst, type Finding, type Release } from '@bench-wake/core/kernel'
import type { Gate } from '@bench-wake/core/ready'
import { computed, ref, watch } from 'vue'
import FindingList from '../FindingList.vue'
import VerdictMark from '../VerdictMark.vue'
import { verdictWords } from '../words'

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
    class="part"
    v-bind="{ open }"
    :data-part="gate?.id"
    :data-verdict="verdict"
    :data-first="first || undefined"
    @toggle="toggled"
  >
    <summary @click="touched = true">
      <VerdictMark :verdict="verdict" quiet />
      <b>{{ name }}</b>
      <span class="word">{{ verdictWords[verdict] }}</span>
      <span class="first"
        >{{ heaviest?.says ?? 'Judging…' }}{{ held > 1 ? ` And ${held - 1} more.` : '' }}</span
      >
    </summary>
    <div v-if="open" class="inside">
      <slot />
      <FindingList
        v-if="listed.length"
        :findings="listed"
        :releases="releases"
        releasable
        @release="$emit('release', $event)"
      />
      <details v-if="gate && gate.findings.length > notGo.length" class="held">
        <summary>
          {{ gate.findings.length - notGo.length }}
          {{ gate.findings.length - notGo.length === 1 ? 'condition holds' : 'conditions hold' }}
        </summary>
        <FindingList :findings="gate.findings.filter(({ level }) => level === 'go')" />
      </details>
    </div>
  </details>
</template>

<style scoped>
.part {
  border-top: 1px solid var(--hair);
}
.part > summary {
  display: grid;
  grid-template-columns: 14px 118px 62px minmax(0, 1fr);
  gap: 12px;
  align-items: baseline;
  min-height: 44px;
  padding: 11px 0 9px;
  cursor: pointer;
  list-style: none;
}
.part > summary::-webkit-details-marker {
  display: none;
}
.held > summary {
  cursor: pointer;
  min-height: 44px;
  line-height: 44px;
  font-size: 13px;
  color: var(--soft);
}
.word,
.first {
  color: var(--soft);
}
[data-verdict='stop'] > summary .word {
  color: var(--stop);
  font-weight: 600;
}
[data-verdict='hold'] > summary .word {
  color: var(--hold);
  font-weight: 600;
}
.inside {
  padding: 0 0 18px 26px;
}
@media (max-width: 700px) {
  .part > summary {
    grid-template-columns: 14px 1fr auto;
  }
  .first {
    grid-column: 2 / -1;
  }
  .inside {
    padding-left: 0;
  }
}
</style>
