<script setup lang="ts">
import type { RoundState } from '@bench-wake/core/rounds'
import { computed } from 'vue'
import { figureText, roundWords, waitedText } from './words'

/** The rounds of a case in a row: how far each was from the aim, what it waits for, and how long it was away. */
const { rounds, within, unit } = defineProps<{
  rounds: readonly { number: number; state: RoundState; waitedMs: number; rms: number | null }[]
  /** Error that is good enough; null without an aim. */
  within: number | null
  unit: string
}>()
const chosen = defineModel<number | null>('chosen', { default: null })

const tallest = computed(() => Math.max(within ?? 0, ...rounds.map(({ rms }) => rms ?? 0)) || 1)
const height = (figure: number) => `${Math.max(2, (figure / tallest.value) * 100)}%`
</script>

<template>
  <ol class="rounds flex m-0 pt-0 pb-1.5 px-0 gap-1 list-none overflow-x-auto" aria-label="Rounds">
    <li
      v-for="round in rounds"
      :key="round.number"
      class="max-w-47.5 flex-[1_0_116px]"
      :data-state="round.state"
    >
      <button
        class="grid pt-2 pb-2.5 px-2 gap-0.5 w-full justify-items-start text-left font-inherit text-inherit bg-transparent cursor-pointer"
        type="button"
        :aria-pressed="chosen === round.number"
        :data-round="round.number"
        @click="chosen = round.number"
      >
        <span class="relative w-11 h-14 line-b-edge" aria-hidden="true">
          <i
            v-if="round.rms !== null"
            class="error absolute w-5 bg-hull bottom-0"
            :style="{ height: height(round.rms) }"
          />
          <i
            v-if="within !== null"
            class="within absolute left-0 right-0"
            :style="{ bottom: height(within) }"
          />
        </span>
        <b class="text-lead">{{ round.number }}</b>
        <span v-if="round.rms !== null" class="mono">{{ figureText(round.rms) }} {{ unit }}</span>
        <span v-else class="soft mono">no figures</span>
        <small class="small soft"
          >{{ roundWords[round.state]
          }}<template v-if="round.waitedMs > 0">, {{ waitedText(round.waitedMs) }}</template></small
        >
      </button>
    </li>
  </ol>
</template>

<style scoped>
button {
  border: 0;
  border-top: 3px solid var(--hair);
}
button:hover {
  background: var(--sheet);
}
button[aria-pressed='true'] {
  border-top-color: var(--brass);
  background: var(--sheet);
}
.error {
  left: 8px;
}
.within {
  border-top: 2px dashed var(--go);
}
</style>
