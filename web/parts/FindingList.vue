<script setup lang="ts">
import { heaviestFirst, type Finding, type Release } from '@bench-wake/core/kernel'
import { waivable } from '@bench-wake/core/ready'
import { computed } from 'vue'
import VerdictMark from './VerdictMark.vue'
import { verdictWords } from './words'

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
  <ul class="findings">
    <li
      v-for="finding in sorted"
      :key="finding.rule + finding.says"
      :data-level="finding.level"
      :data-rule="finding.rule"
    >
      <VerdictMark :verdict="finding.level" quiet />
      <div>
        <p class="says">
          <b v-if="finding.level !== 'go'" class="word">{{ verdictWords[finding.level] }}: </b
          >{{ finding.says }}
        </p>
        <p class="because">{{ finding.because }}</p>
        <p v-if="finding.remedy && finding.level !== 'go'" class="remedy">{{ finding.remedy }}</p>
        <p v-if="releaseOf(finding.rule)" class="because">
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
.findings {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 14px 1fr;
  gap: 12px;
  padding: 9px 0;
}
li > svg {
  margin-top: 5px;
}
.says {
  font-size: 15px;
}
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
.because {
  font-size: 13px;
  color: var(--soft);
}
.remedy {
  margin-top: 3px;
}
</style>
