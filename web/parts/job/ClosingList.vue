<script setup lang="ts">
import { itsTurn, type ClosingItem } from '@bench-wake/core/job'
import type { PostUpdateTaskState, postUpdateOutcomes } from '@bench-wake/core/run'
import { NButton, NCheckbox, NInput } from 'naive-ui'
import { nextTick, reactive, ref, watch } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { postUpdateKindWords, postUpdateOutcomeWords } from '../words'
import { timeText, written } from '../written'

type Outcome = (typeof postUpdateOutcomes)[number]

/** One list after the proof, in the order the unit needs: what comes back, and each test after what it needs. */
const back = defineModel<string[]>('back', { required: true })
const { items, runId, by } = defineProps<{
  items: ClosingItem[]
  runId: string | null
  /** Who says so. */
  by: string
}>()
const emit = defineEmits<{ said: [] }>()
const { problem, askInTurn } = useAsked()
const notes = reactive<Record<string, string>>({})
const list = ref<HTMLElement>()

/** Where the person stood with the last word said. */
let stood: Element | null = null
const say = (item: string, outcome: Outcome) => {
  stood = document.activeElement
  return askInTurn(async () => {
    const note = notes[item]?.trim()
    await got(
      api.runs[':id'].aftercare.$post({
        param: { id: runId! },
        json: { item, outcome, by, ...(note ? { note } : {}) },
      }),
    )
    emit('said')
  })
}
const tick = (id: string, on: boolean) => {
  stood = document.activeElement
  const own = id.replace(/^back-/, '')
  back.value = on ? [...back.value, own] : back.value.filter((each) => each !== own)
}
/** With one thing done the next one has the focus; who has gone on meanwhile is left where they are. */
watch(
  () => items.filter(({ done }) => done).length,
  async (now, before) => {
    const here = document.activeElement
    await nextTick()
    if (now > before && (here === document.body || (here === stood && list.value?.contains(here))))
      list.value?.querySelector<HTMLElement>('[data-next]:not(:disabled)')?.focus()
  },
)
const next = (item: ClosingItem) => (!item.done && itsTurn(items, item)) || undefined
const verdict = (said: PostUpdateTaskState['said']) =>
  !said ? 'unknown' : said.outcome === 'failed' ? (said.note ? 'note' : 'hold') : 'go'
</script>

<template>
  <section aria-label="Back in order">
    <h2>In this order</h2>
    <p v-if="!by && items.some(({ task }) => task)" class="small soft">
      Type your name above: each word is kept with who says it.
    </p>
    <ol ref="list" class="mt-0 mb-2 mx-0 p-0 list-none">
      <template v-for="item in items" :key="item.id">
        <li
          v-if="item.task"
          class="grid py-2.5 gap-2.5 grid-cols-[24px_minmax(0,1fr)_auto] items-start line-t phone:grid-cols-[24px_minmax(0,1fr)]"
          :data-task="item.id"
          :data-closing="item.id"
        >
          <VerdictMark :verdict="verdict(item.task.said)" />
          <div>
            <p class="mb-0.75">
              <span class="kind block small soft">{{ postUpdateKindWords[item.task.kind] }}</span> <b>{{
                item.does
              }}</b>
            </p>
            <p v-if="item.caution" class="caution pl-2 mb-0.75" role="note">{{ written(item.caution) }}</p>
            <p v-if="item.expect" class="small soft mb-0.75">{{ item.expect }}</p>
            <p v-if="item.task.said" class="small mb-0.75">
              {{ postUpdateOutcomeWords[item.task.said.outcome] }}, {{ item.task.said.by }},
              {{ timeText(item.task.said.at) }}{{ item.task.said.note ? `: ${item.task.said.note}` : '' }}
            </p>
            <NInput
              v-if="item.task.said?.outcome === 'failed' && !item.task.said.note"
              :value="notes[item.id] ?? ''"
              placeholder="What was not well, and what becomes of it"
              :input-props="{ 'aria-label': `Word on: ${item.does}` }"
              @update:value="notes[item.id] = $event"
              @keydown.enter.prevent="say(item.id, 'failed')"
            />
          </div>
          <div class="say flex gap-1.5 flex-wrap justify-end phone:col-start-2 phone:justify-start">
            <template v-if="item.task.said?.outcome === 'failed' && !item.task.said.note">
              <NButton :disabled="!notes[item.id]?.trim()" @click="say(item.id, 'failed')">Save</NButton>
              <NButton quaternary @click="say(item.id, 'done')">Fixed</NButton>
            </template>
            <template v-else-if="!item.task.said">
              <NButton
                data-task-done
                :data-next="next(item)"
                :disabled="!by || !next(item)"
                @click="say(item.id, 'done')"
                >{{ item.task.kind === 'scare' ? 'Seen, and over' : 'Done, well' }}</NButton
              >
              <NButton
                v-if="item.task.kind !== 'scare'"
                quaternary
                :disabled="!by || !next(item)"
                @click="say(item.id, 'failed')"
                >Not well</NButton
              >
              <NButton quaternary :disabled="!by" @click="say(item.id, 'not-needed')">{{
                item.task.kind === 'scare' ? 'Did not come' : 'Not here'
              }}</NButton>
            </template>
            <NButton
              v-else
              quaternary
              @click="say(item.id, item.task.said.outcome === 'done' ? 'failed' : 'done')"
              >{{ item.task.said.outcome === 'done' ? 'Not fixed after all' : 'Fixed' }}</NButton
            >
          </div>
        </li>
        <li
          v-else
          class="grid py-2.5 gap-2.5 grid-cols-[24px_minmax(0,1fr)_auto] items-start line-t phone:grid-cols-[24px_minmax(0,1fr)]"
          :data-closing="item.id"
        >
          <VerdictMark :verdict="item.done ? 'go' : 'unknown'" />
          <div>
            <NCheckbox
              :checked="item.done"
              :data-next="next(item)"
              :disabled="!item.done && !next(item)"
              @update:checked="(on) => tick(item.id, on)"
              >{{ item.does }}</NCheckbox
            >
            <p v-if="item.caution" class="caution pl-2 mb-0.75" role="note">{{ written(item.caution) }}</p>
          </div>
        </li>
      </template>
    </ol>
    <ProblemNote v-if="problem" :problem="problem" />
  </section>
</template>

<style scoped>
.n-checkbox {
  font-weight: 600;
}
</style>
