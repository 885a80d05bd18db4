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
  <ol class="rounds" aria-label="Rounds">
    <li v-for="round in rounds" :key="round.number" :data-state="round.state">
      <button
        type="button"
        :aria-pressed="chosen === round.number"
        :data-round="round.number"
        @click="chosen = round.number"
      >
        <span class="column" aria-hidden="true">
          <i v-if="round.rms !== null" class="error" :style="{ height: height(round.rms) }" />
          <i v-if="within !== null" class="within" :style="{ bottom: height(within) }" />
        </span>
        <b>{{ round.number }}</b>
        <span v-if="round.rms !== null" class="figure">{{ figureText(round.rms) }} {{ unit }}</span>
        <span v-else class="figure soft">no figures</span>
        <small
          >{{ roundWords[round.state]
          }}<template v-if="round.waitedMs > 0">, {{ waitedText(round.waitedMs) }}</template></small
        >
      </button>
    </li>
  </ol>
</template>

<style scoped>
.rounds {
  list-style: none;
  display: flex;
  gap: 4px;
  margin: 0;
  padding: 0 0 6px;
  overflow-x: auto;
}
li {
  flex: 1 0 116px;
  max-width: 190px;
}
button {
  width: 100%;
  display: grid;
  gap: 2px;
  justify-items: start;
  text-align: left;
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  border-top: 3px solid var(--hair);
  padding: 8px 8px 10px;
  cursor: pointer;
}
button:hover {
  background: var(--sheet);
}
button[aria-pressed='true'] {
  border-top-color: var(--brass);
  background: var(--sheet);
}
.column {
  position: relative;
  width: 44px;
  height: 56px;
  border-bottom: 1px solid var(--edge);
}
.error {
  position: absolute;
  bottom: 0;
  left: 8px;
  width: 20px;
  background: var(--hull);
}
.within {
  position: absolute;
  left: 0;
  right: 0;
  border-top: 2px dashed var(--go);
}
b {
  font-size: 18px;
}
.figure {
  font-family: var(--mono);
}
small {
  font-size: 13px;
  color: var(--soft);
}
</style>
