<script setup lang="ts">
import type { Care, careOutcomes } from '@bench-wake/core/run'
import { NButton, NInput } from 'naive-ui'
import { reactive } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { careKindWords, careWords, timeText } from '../words'

type Outcome = (typeof careOutcomes)[number]

const { care, runId, by } = defineProps<{
  care: Care[]
  runId: string
  /** Who says so. */
  by: string
}>()
const emit = defineEmits<{ said: [] }>()
const { problem, askInTurn } = useAsked()
const notes = reactive<Record<string, string>>({})

const say = (item: string, outcome: Outcome) =>
  askInTurn(async () => {
    const note = notes[item]?.trim()
    await got(
      api.runs[':id'].aftercare.$post({
        param: { id: runId },
        json: { item, outcome, by, ...(note ? { note } : {}) },
      }),
    )
    emit('said')
  })
const verdict = (said: Care['said']) =>
  !said ? 'unknown' : said.outcome === 'failed' ? (said.note ? 'note' : 'hold') : 'go'
</script>

<template>
  <section aria-label="Behind the proof">
    <h2>Behind the proof, in order</h2>
    <p v-if="!by" class="small soft">Type your name above: each word is kept with who says it.</p>
    <ol>
      <li v-for="item in care" :key="item.id" :data-care="item.id">
        <VerdictMark :verdict="verdict(item.said)" />
        <div>
          <p>
            <span class="kind">{{ careKindWords[item.kind] }}</span> <b>{{ item.does }}</b>
          </p>
          <p v-if="item.caution" class="caution" role="note">{{ item.caution }}</p>
          <p v-if="item.expect" class="small soft">{{ item.expect }}</p>
          <p v-if="item.said" class="small">
            {{ careWords[item.said.outcome] }}, {{ item.said.by }}, {{ timeText(item.said.at)
            }}{{ item.said.note ? `: ${item.said.note}` : '' }}
          </p>
          <NInput
            v-if="item.said?.outcome === 'failed' && !item.said.note"
            :value="notes[item.id] ?? ''"
            placeholder="What was not well, and what becomes of it"
            :input-props="{ 'aria-label': `Word on: ${item.does}` }"
            @update:value="notes[item.id] = $event"
            @keydown.enter.prevent="say(item.id, 'failed')"
          />
        </div>
        <div class="say">
          <template v-if="item.said?.outcome === 'failed' && !item.said.note">
            <NButton :disabled="!notes[item.id]?.trim()" @click="say(item.id, 'failed')"
              >Keep the word</NButton
            >
            <NButton quaternary @click="say(item.id, 'done')">It is well now</NButton>
          </template>
          <template v-else-if="!item.said">
            <NButton data-care-done :disabled="!by" @click="say(item.id, 'done')">{{
              item.kind === 'scare' ? 'Seen, and over' : 'Done, well'
            }}</NButton>
            <NButton v-if="item.kind !== 'scare'" quaternary :disabled="!by" @click="say(item.id, 'failed')"
              >Not well</NButton
            >
            <NButton quaternary :disabled="!by" @click="say(item.id, 'not-needed')">{{
              item.kind === 'scare' ? 'Did not come' : 'Not here'
            }}</NButton>
          </template>
          <NButton
            v-else
            quaternary
            @click="say(item.id, item.said.outcome === 'done' ? 'failed' : 'done')"
            >{{ item.said.outcome === 'done' ? 'Not well after all' : 'It is well now' }}</NButton
          >
        </div>
      </li>
    </ol>
    <ProblemNote v-if="problem" :problem="problem" />
  </section>
</template>

<style scoped>
ol {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
li {
  display: grid;
  grid-template-columns: 24px minmax(0, 1fr) auto;
  gap: 10px;
  align-items: start;
  padding: 10px 0;
  border-top: 1px solid var(--hair);
}
li p {
  margin: 0 0 3px;
}
.kind {
  font-size: 12px;
  color: var(--soft);
  display: block;
}
.caution {
  border-left: 3px solid var(--hold);
  padding-left: 8px;
}
.say {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  justify-content: flex-end;
}
@media (max-width: 700px) {
  li {
    grid-template-columns: 24px minmax(0, 1fr);
  }
  .say {
    grid-column: 2;
    justify-content: flex-start;
  }
}
</style>
