<script setup lang="ts">
import { heaviestFirst, type Finding, type Release } from '@bench-wake/core/kernel'
import { waivable } from '@bench-wake/core/ready'
import { computed } from 'vue'
import VerdictMark from './VerdictMark.vue'
import { verdictWords } from './words'
import { written } from './written'

const {
  findings,
  releases = [],
  releasable = false,
} = defineProps<{
  findings: readonly Finding[]
  releases?: readonly Release[]
  /** Offers to release holds. */
  releasable?: boolean
}>()
const emit = defineEmits<{ release: [rule: string] }>()

const sorted = computed(() => heaviestFirst(findings))
const releaseOf = (rule: string) => releases.find((release) => release.rule === rule)
</script>

<template>
  <ul class="plain">
    <li
      v-for="finding in sorted"
      :key="finding.rule + finding.says"
      class="grid py-2.25 gap-3 grid-cols-[14px_1fr]"
      :data-level="finding.level"
      :data-rule="finding.rule"
    >
      <VerdictMark class="mt-1.25" :verdict="finding.level" quiet />
      <div>
        <p class="says text-body">
          <b v-if="finding.level !== 'go'" class="word">{{ verdictWords[finding.level] }}: </b
          >{{ written(finding.says) }}
        </p>
        <p class="small soft">{{ written(finding.because) }}</p>
        <p v-if="finding.remedy && finding.level !== 'go'" class="mt-0.75">{{ written(finding.remedy) }}</p>
        <p v-if="releaseOf(finding.rule)" class="small soft">
          Released by {{ releaseOf(finding.rule)!.name }}: {{ releaseOf(finding.rule)!.reason }}
        </p>
        <button
          v-else-if="releasable && (finding.level === 'hold' || waivable.has(finding.rule))"
          class="textlike"
          type="button"
          @click="emit('release', finding.rule)"
        >
          {{ finding.level === 'hold' ? 'Release this hold' : 'Waive this' }} by name and reason
        </button>
      </div>
    </li>
  </ul>
</template>

<style scoped>
li:not([data-level='go']) .says {
  font-size: 18px;
  line-height: 1.35;
}
[data-level='hold'] .word {
  color: var(--hold);
}
[data-level='stop'] .word {
  color: var(--stop);
}
[data-level='note'] .word {
  color: var(--note);
}
</style>
