<script setup lang="ts">
import { verdictOf } from '@bench-wake/core/kernel'
import type { CaseRound } from '@bench-wake/core/rounds'
import type { CaseAnswer, CaseLogRow } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import FindingList from '../FindingList.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { verdictWords } from '../words'
import { durationText, sizeText } from '../written'

/** The logs of a round, each with what the rules say of it. */
const { view, round } = defineProps<{ view: CaseAnswer; round: CaseRound }>()
const emit = defineEmits<{ changed: [] }>()
const look = useLook()
const { busy, problem, ask } = useAsked()

const logs = computed(() => view.logs.filter((log) => log.round === round.number).reverse())
const leftOut = (log: CaseLogRow) => round.logs.find(({ id }) => id === log.id)?.leftOut ?? null
const kindName = (kind: string) => view.state.agreement.kinds.find(({ id }) => id === kind)?.name ?? kind
const asking = ref<string | null>(null)
const why = ref('')
/** A held log that somebody answers for. */
const isHeld = (log: CaseLogRow) => round.logs.find(({ id }) => id === log.id)
const accepting = ref<string | null>(null)
const accept = (log: CaseLogRow) =>
  ask(async () => {
    await got(
      api.cases[':id'].logs[':log'].accept.$post({
        param: { id: view.id, log: log.id },
        json: { why: why.value.trim(), by: look.name.trim() },
      }),
    )
    accepting.value = null
    why.value = ''
    emit('changed')
  })
const leaveOut = (log: CaseLogRow) =>
  ask(async () => {
    await got(
      api.cases[':id'].logs[':log']['leave-out'].$post({
        param: { id: view.id, log: log.id },
        json: { why: why.value.trim(), by: look.name || 'Somebody' },
      }),
    )
    asking.value = null
    why.value = ''
    emit('changed')
  })
</script>

<template>
  <template v-if="logs.length > 0">
    <h3 class="mt-5 mb-1 text-body text-ink">Logs</h3>
    <ProblemNote v-if="problem" :problem="problem" />
    <ul class="plain">
      <li
        v-for="log in logs"
        :key="log.id"
        class="py-1.5 line-b"
        :data-log="log.id"
        :class="{ out: leftOut(log) !== null }"
      >
        <p class="line flex gap-y-1.5 gap-x-3.5 flex-wrap items-center min-h-11">
          <VerdictMark :verdict="verdictOf(log.findings)" />
          <b>{{ kindName(log.logKind) }}</b>
          <RouterLink :to="{ name: 'log', params: { id: view.id, log: log.id } }">{{ log.name }}</RouterLink>
          <span class="small soft"
            >{{ durationText(log.summary.seconds * 1000) }}, {{ log.summary.channels.length }} channels,
            {{ sizeText(log.bytes) }}</span
          >
          <span v-if="leftOut(log) !== null" class="small">left out: {{ leftOut(log) }}</span>
          <span v-else class="small soft">{{ verdictWords[verdictOf(log.findings)] }}</span>
          <NButton
            v-if="leftOut(log) === null && !view.state.closed && round.sent === null && asking !== log.id"
            quaternary
            size="small"
            @click="asking = log.id"
            >Leave out</NButton
          >
        </p>
        <form
          v-if="asking === log.id"
          class="line flex gap-y-1.5 gap-x-3.5 flex-wrap items-center min-h-11"
          @submit.prevent="leaveOut(log)"
        >
          <NInput
            v-model:value="why"
            placeholder="Why it is left out"
            :input-props="{ 'aria-label': 'Why it is left out' }"
            :maxlength="400"
          />
          <NButton attr-type="submit" :loading="busy" :disabled="!why.trim()">Leave it out</NButton>
          <NButton quaternary @click="asking = null">Cancel</NButton>
        </form>
        <p v-if="isHeld(log)?.accepted" class="small">Counts all the same, {{ isHeld(log)?.accepted }}</p>
        <template v-else-if="isHeld(log)?.held && leftOut(log) === null && !view.state.closed && !round.sent">
          <NButton v-if="accepting !== log.id" size="small" @click="accepting = log.id"
            >Use it all the same</NButton
          >
          <form
            v-else
            class="line flex gap-y-1.5 gap-x-3.5 flex-wrap items-center min-h-11"
            @submit.prevent="accept(log)"
          >
            <NInput
              v-model:value="why"
              placeholder="Why it counts"
              :input-props="{ 'aria-label': 'Why it counts' }"
              :maxlength="400"
            />
            <NInput
              v-model:value="look.name"
              placeholder="Your name"
              :input-props="{ 'aria-label': 'Your name' }"
              :maxlength="80"
            />
            <NButton attr-type="submit" :loading="busy" :disabled="!why.trim() || !look.name.trim()"
              >Use it</NButton
            >
            <NButton quaternary @click="accepting = null">Cancel</NButton>
          </form>
        </template>
        <FindingList
          v-if="verdictOf(log.findings) !== 'go' && leftOut(log) === null"
          :findings="log.findings"
        />
      </li>
    </ul>
  </template>
</template>

<style scoped>
.out {
  opacity: 0.75;
}
</style>
