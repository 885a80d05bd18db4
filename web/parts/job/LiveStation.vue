<script setup lang="ts">
import type { FamilyDocument, StageName } from '@bench-wake/core/family'
import { entriesOver } from '@bench-wake/core/family'
import {
  conditionOf,
  guidance,
  supplyNow,
  troubleAt,
  writes,
  type RunState,
  type WakeEvent,
} from '@bench-wake/core/run'
import { NButton, NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, got } from '../../stores/api'
import { useLive } from '../../stores/live'
import Coach from '../entry/Coach.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { useSettled } from '../useSettled'
import PanelPicture from '../entry/PanelPicture.vue'
import VerdictMark from '../VerdictMark.vue'
import AbandonWrite from './AbandonWrite.vue'
import type { BenchDesk } from './bench-inputs'
import { eventWords } from './event-words'
import KeptSettings from './KeptSettings.vue'
import StandInShows from './StandInShows.vue'
import StageSigns from './StageSigns.vue'
import { commandOf } from './step-commands'
import WriteProgress from './WriteProgress.vue'
import WhatItAsks from './WhatItAsks.vue'
import { exactTimeText, voltsText, written } from '../written'

const { id, run, events, family, ended, desk } = defineProps<{
  id: string
  run: RunState
  events: WakeEvent[]
  family: FamilyDocument | undefined
  /** False while the page has lost the server's stream. */
  joined: boolean
  ended: boolean
  restarting: boolean
  /** False while the next leg lacks its port. */
  startable?: boolean
  /** Writes that come after this one, and what they take. */
  later?: { count: number; ms: number }
  /** What is said of the bench meanwhile: settings that are kept at their question. */
  desk?: BenchDesk
}>()
const emit = defineEmits<{ again: []; asks: [] }>()

const live = useLive()
const answering = useAsked()
/** The question has just come in place of another one, and nobody can have read it. */
const unread = useSettled(
  () => (run.prompt ? `${run.leg} ${run.questions.length}` : undefined),
  () => emit('asks'),
)

const now = computed(() => live.runNow(id))
const step = computed(() => (run.open === null ? undefined : run.steps[run.open]))
const stage = computed(() => {
  const kind = step.value?.kind
  const stages = family?.stages
  return kind && stages && kind in stages ? stages[kind as StageName] : undefined
})
const ways = computed(() => (family ? entriesOver(family, run.facts.link?.id ?? '') : []))
/** The way in of this run, for the picture of the unit's face. */
const script = computed(() => (ways.value.find(({ kind }) => kind === 'command') ?? ways.value[0])?.script)
/** Where the person's hands bring the unit in, the coach leads; the link waits meanwhile. */
const byHand = computed(() => {
  const way = ways.value.find(({ kind }) => kind === 'by-hand')
  return run.prompt?.prompt === 'enter-by-hand' && way?.script ? { ...way, script: way.script } : null
})
/** What the run itself does in an entry: it waits at the open port. */
const waits = () => Promise.resolve()
const router = useRouter()
const findOut = () => router.push({ name: 'entry', params: { id: run.facts.job.id }, query: { why: '1' } })
const goodShows = computed(() => {
  const sign = script.value?.signs.find(({ tells }) => tells === 'in')
  return sign?.part ? { [sign.part]: { shown: sign.shown } } : {}
})
const supply = computed(() => supplyNow(run))
const condition = computed(() => guidance[conditionOf(run)])
const last = computed(() => events.slice(-2))

/** What the open question wants typed. */
const typed = ref('')
const typedProps = computed(() => ({
  'aria-label': run.prompt?.takes === 'hex' ? 'Pairs of hexadecimal digits' : 'What the unit wants',
  autocomplete: 'off',
  // Whoever is asked types at once.
  'data-primary': '',
}))
const answer = (chosen: string) =>
  answering.ask(async () => {
    const json = {
      prompt: run.prompt!.prompt,
      answer: chosen,
      ...(chosen === 'typed' ? { typed: typed.value } : {}),
    }
    await got(api.runs[':id'].answers.$post({ param: { id }, json }))
    typed.value = ''
  })
</script>

<template>
  <template v-if="ended">
    <p class="where">{{ troubleAt(run) }}</p>
    <h2 class="say">{{ condition.keepPowered ? 'Do not power down.' : 'It did not reach its end.' }}</h2>
    <p class="lead">
      {{ written(condition.says) }} {{ written(condition.next.replace(/^Do not power down\. /, '')) }}
    </p>
    <div class="acts">
      <NButton
        data-primary
        type="primary"
        size="large"
        :disabled="!startable"
        :loading="restarting"
        @click="emit('again')"
      >
        Go on from here
      </NButton>
      <RouterLink
        v-if="['in-bootloader', 'as-it-was'].includes(conditionOf(run))"
        :to="{ name: 'entry', params: { id: run.facts.job.id }, query: { why: '1' } }"
        >It did not answer: find out why</RouterLink
      >
      <RouterLink :to="{ name: 'record', params: { id } }">What happened, event by event</RouterLink>
    </div>
    <ProblemNote
      v-if="run.problem"
      :problem="{ ...run.problem, type: '', status: 0, detail: '', title: run.problem.says }"
    />
    <p v-else-if="run.cutWhy" class="soft">{{ run.cutWhy }}</p>
    <slot />
  </template>

  <template v-else>
    <p class="where">
      {{ run.facts.also ? '' : `${run.facts.component.name}. ` }}{{ written(step ? step.says : 'Starting') }},
      step {{ (run.open ?? 0) + 1 }} of {{ run.steps.length
      }}<template v-if="run.facts.port.standIn"
        >, on a stand-in{{
          run.facts.speed === 1
            ? ''
            : run.facts.speed
              ? ` at ${run.facts.speed}× real time`
              : ', as fast as possible'
        }}</template
      >
    </p>
    <p v-if="run.supplyWarning && supply" class="caution mb-3.5 py-2 px-3.5 text-lead bg-sheet" role="alert">
      <b class="text-hold">The supply falls.</b>
      {{ voltsText(supply.now) }} now{{
        supply.atLastByte === null || supply.atLastByte > supply.now
          ? ''
          : `, ${voltsText(supply.atLastByte)} at the last byte`
      }}; the floor is {{ voltsText(run.facts.floorVolts) }}. Do not stop the write. Put a charger on the
      supply, or take other loads off it now.
    </p>
    <p v-if="run.prompt?.caution" class="caution mb-3.5 py-2 px-3.5 text-lead bg-sheet">
      <b class="text-hold">Caution.</b> {{ written(run.prompt.caution) }}
    </p>
    <template v-if="byHand">
      <p v-if="run.retries.some(({ step: at }) => at === run.open)" class="soft" role="status">
        It was not in: {{ run.retries.findLast(({ step: at }) => at === run.open)!.why }}
      </p>
      <div class="coached mb-5">
        <Coach
          :key="`${run.leg} ${run.questions.length}`"
          :script="byHand.script"
          :panel="family?.panel"
          :tries="byHand.tries"
          :perform="waits"
          @stuck="findOut"
        >
          <template #in>
            <p class="lead">Go on at once: the bootloader waits, and some leave it again after a while.</p>
            <NButton data-primary type="primary" size="large" @click="answer('done')">Go on</NButton>
          </template>
        </Coach>
      </div>
    </template>
    <h2 v-else class="say" aria-live="assertive">
      {{ written(run.prompt ? run.prompt.says : step ? commandOf(step.kind, run.facts) : 'Starting.') }}
    </h2>
    <StandInShows
      v-if="run.facts.port.standIn && run.facts.port.id.startsWith('by-hand:') && run.prompt"
      :key="run.prompt.prompt"
      :job-id="run.facts.job.id"
    />
    <form v-if="run.prompt?.takes" class="typed" @submit.prevent="answer('typed')">
      <NInput
        v-model:value="typed"
        :input-props="typedProps"
        :placeholder="run.prompt.takes === 'hex' ? '12 AB 34 CD' : ''"
        size="large"
      />
      <p class="small soft">It goes to the unit and not into the record; a saved trace shows it.</p>
    </form>
    <div v-if="run.prompt" class="acts" :data-asks="run.prompt.prompt">
      <NButton
        v-for="(choice, index) in run.prompt.answers"
        :key="choice.id"
        :data-answer="choice.id"
        :data-primary="(index === 0 && !byHand && !run.prompt.takes) || undefined"
        :type="index === 0 && !byHand ? 'primary' : 'default'"
        :size="byHand ? 'medium' : 'large'"
        :loading="answering.busy.value"
        :disabled="unread || (choice.id === 'typed' && typed.trim() === '')"
        @click="answer(choice.id)"
      >
        {{ byHand && choice.id === 'done' ? 'It is in already: go on' : written(choice.says) }}
      </NButton>
    </div>
    <KeptSettings
      v-if="run.prompt?.prompt === 'settings' && family?.backup?.settings && desk"
      :job-id="run.facts.job.id"
      :settings="family.backup.settings"
      :desk="desk"
    />
    <p v-if="!joined" class="text-lead" role="status">
      <VerdictMark verdict="unknown" /> This page has lost the program. The write goes on without it; the page
      joins again by itself.
    </p>

    <div v-if="step?.kind === 'enter' && script && family?.panel && !byHand">
      <PanelPicture :panel="family.panel" :shows="goodShows" :held="[]" />
      <p class="soft">
        Success: {{ script.signs.find(({ tells }) => tells === 'in')?.says.toLowerCase() }}. The link listens
        and says so by itself.
      </p>
    </div>
    <WriteProgress
      v-if="run.progress && (step?.handsOff || step?.kind === 'dry-run')"
      :run="run"
      :now="now"
      :later="later"
    />

    <StageSigns v-if="stage" :stage="stage" />

    <WhatItAsks
      v-if="
        family?.asks &&
        step &&
        ['erase', 'write', 'verify', 'restart'].includes(step.kind) &&
        writes(run.facts)
      "
      :asks="family.asks"
    />
    <AbandonWrite v-if="step?.kind === 'write'" :id="id" :key="run.open ?? -1" />
    <ProblemNote v-if="answering.problem.value" :problem="answering.problem.value" />
    <p v-if="!run.facts.port.id.startsWith('by-hand:')" class="small">
      <RouterLink :to="{ name: 'trace', query: { port: run.facts.port.id } }"
        >What goes over the link, row by row</RouterLink
      >
    </p>
    <p
      v-if="last.length"
      class="mono flex mt-auto pt-2.75 gap-5.5 line-t small soft overflow-hidden whitespace-nowrap"
    >
      <span v-for="event in last" :key="event.seq"
        ><b class="text-ink font-500">{{ exactTimeText(event.at) }}</b>
        {{ eventWords(event, run.steps) }}</span
      >
    </p>
  </template>
</template>

<style scoped>
.coached {
  container-type: inline-size;
}
</style>
