<script setup lang="ts">
import type { FamilyDocument, StageName } from '@bench-wake/core/family'
import {
  bytesText,
  clockText,
  durationText,
  groupedNumber,
  rateText,
  voltsText,
} from '@bench-wake/core/kernel'
import {
  bytesPerSecond,
  conditionOf,
  guidance,
  openStepLeft,
  supplyNow,
  timeLeft,
  troubleAt,
  writes,
  type RunState,
  type StepKind,
  type WakeEvent,
} from '@bench-wake/core/run'
import { NButton } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, got } from '../../stores/api'
import { useLive } from '../../stores/live'
import Coach from '../entry/Coach.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import PanelPicture from '../entry/PanelPicture.vue'
import VerdictMark from '../VerdictMark.vue'
import { exactTimeText, timeText } from '../words'
import type { BenchDesk } from './bench-say'
import { eventWords } from './event-words'
import KeptSettings from './KeptSettings.vue'
import WhatItAsks from './WhatItAsks.vue'

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
  /** Writes that come behind this one, and what they take. */
  later?: { count: number; ms: number }
  /** What is said of the bench meanwhile: settings that are kept at their question. */
  desk?: BenchDesk
}>()
defineEmits<{ again: [] }>()

const live = useLive()
const answering = useAsked()
const abandoning = useAsked()
const leaving = ref<{ token: string; leaves: string; next: string } | null>(null)
watch(
  () => run.open,
  () => (leaving.value = null),
)

const commands: Record<StepKind, string> = {
  'power-up': 'Power as ordered.',
  swap: 'Changing the chip.',
  connect: 'Opening the port.',
  identify: 'Reading the unit.',
  settings: 'Keeping the settings.',
  enter: 'Going into the bootloader. Watch the lamp.',
  backup: 'Reading out what is in it. Nothing is written yet.',
  compare: 'Holding the image against what is in the unit.',
  'dry-run': 'A dry run: all of it goes over the link, nothing is written.',
  erase: 'Erasing. Leave plug, lid and key alone.',
  write: 'Writing. Leave plug, lid and key alone.',
  verify: 'Comparing. Leave it alone.',
  restart: 'Starting the new firmware.',
  prove: 'Reading the version from the unit.',
  look: 'Looking at what the unit shows.',
  faults: 'Reading and clearing the fault codes.',
}
/** Words of a run that writes nothing. */
const looking: Partial<Record<StepKind, string>> = {
  backup: 'Reading out what is in it.',
  compare: 'Comparing the image with the unit. Leave it alone.',
  restart: 'Starting its firmware again.',
  prove: 'Reading the unit again.',
  faults: 'Reading the fault codes.',
}
const command = (kind: StepKind) => (writes(run.facts) ? undefined : looking[kind]) ?? commands[kind]
const now = computed(() => live.runNow(id))
const step = computed(() => (run.open === null ? undefined : run.steps[run.open]))
const stage = computed(() => {
  const kind = step.value?.kind
  const stages = family?.stages
  return kind && stages && kind in stages ? stages[kind as StageName] : undefined
})
/** The way in of this run, for the picture of the unit's face. */
const script = computed(
  () => (family?.entry.find(({ kind }) => kind === 'command') ?? family?.entry[0])?.script,
)
/** Where the person's hands bring the unit in, the coach leads; the link waits meanwhile. */
const byHand = computed(() => {
  const way = family?.entry.find(({ kind }) => kind === 'by-hand')
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
const progress = computed(() => run.progress)
const share = computed(() => (progress.value ? progress.value.done / Math.max(1, progress.value.total) : 0))
const stepLeft = computed(() => (step.value ? openStepLeft(run, step.value, now.value) : 0))
const left = computed(() => timeLeft(run, now.value) ?? 0)
const doneAt = computed(() => timeText(Date.now() + left.value / (run.facts.speed || 1)))
const rate = computed(() => bytesPerSecond(run))
/** Where on the bar a block was sent again. */
const marks = computed(() => {
  const writing = step.value
  if (!writing?.startedAt || !progress.value) return []
  const span = progress.value.at - writing.startedAt
  return run.retries
    .filter(({ step: at }) => at === run.open)
    .map(({ at }) => Math.min(1, (at - writing.startedAt!) / Math.max(1, span)) * share.value)
})
const condition = computed(() => guidance[conditionOf(run)])
const last = computed(() => events.slice(-2))

const answer = (chosen: string) =>
  answering.ask(() =>
    got(
      api.runs[':id'].answers.$post({ param: { id }, json: { prompt: run.prompt!.prompt, answer: chosen } }),
    ),
  )
const abandon = () =>
  abandoning.ask(async () => {
    leaving.value = await got(
      api.runs[':id'].abandon.$post({
        param: { id },
        json: leaving.value ? { token: leaving.value.token } : {},
      }),
    )
  })
</script>

<template>
  <template v-if="ended">
    <p class="where">{{ troubleAt(run) }}</p>
    <h2 class="say">{{ condition.keepPowered ? 'Do not power down.' : 'It did not reach its end.' }}</h2>
    <p class="lead">{{ condition.says }} {{ condition.next.replace(/^Do not power down\. /, '') }}</p>
    <div class="acts">
      <NButton
        data-primary
        type="primary"
        size="large"
        :disabled="!startable"
        :loading="restarting"
        @click="$emit('again')"
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
      {{ run.facts.also ? '' : `${run.facts.component.name}. ` }}{{ step ? step.says : 'Starting' }}, step
      {{ (run.open ?? 0) + 1 }} of {{ run.steps.length
      }}<template v-if="run.facts.port.standIn"
        >, on a stand-in{{
          run.facts.speed === 1
            ? ''
            : run.facts.speed
              ? ` at ${run.facts.speed} times the speed of life`
              : ', unpaced'
        }}</template
      >
    </p>
    <p v-if="run.supplyWarning && supply" class="caution" role="alert">
      <b>The supply falls.</b>
      {{ voltsText(supply.now) }} now{{
        supply.atLastByte === null || supply.atLastByte > supply.now
          ? ''
          : `, ${voltsText(supply.atLastByte)} at the last byte`
      }}; the floor is {{ voltsText(run.facts.floorVolts) }}. Do not stop the write. Put a charger on the
      supply, or take other loads off it now.
    </p>
    <p v-if="run.prompt?.caution" class="caution"><b>Caution.</b> {{ run.prompt.caution }}</p>
    <template v-if="byHand">
      <p v-if="run.retries.some(({ step: at }) => at === run.open)" class="soft" role="status">
        It was not in: {{ run.retries.findLast(({ step: at }) => at === run.open)!.why }}
      </p>
      <div class="coached">
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
      {{ run.prompt ? run.prompt.says : step ? command(step.kind) : 'Starting.' }}
    </h2>
    <div v-if="run.prompt" class="acts">
      <NButton
        v-for="(choice, index) in run.prompt.answers"
        :key="choice.id"
        :data-answer="choice.id"
        :data-primary="(index === 0 && !byHand) || undefined"
        :type="index === 0 && !byHand ? 'primary' : 'default'"
        :size="byHand ? 'medium' : 'large'"
        :loading="answering.busy.value"
        @click="answer(choice.id)"
      >
        {{ byHand && choice.id === 'done' ? 'It is in already: go on' : choice.says }}
      </NButton>
    </div>
    <KeptSettings
      v-if="run.prompt?.prompt === 'settings' && family?.backup?.settings && desk"
      :job-id="run.facts.job.id"
      :settings="family.backup.settings"
      :desk="desk"
    />
    <p v-if="!joined" class="lost" role="status">
      <VerdictMark verdict="unknown" /> This page has lost the program. The write goes on without it; the page
      joins again by itself.
    </p>

    <div v-if="step?.kind === 'enter' && script && family?.panel && !byHand" class="face">
      <PanelPicture :panel="family.panel" :shows="goodShows" :held="[]" />
      <p class="soft">
        Success: {{ script.signs.find(({ tells }) => tells === 'in')?.says.toLowerCase() }}. The link listens
        and says so by itself.
      </p>
    </div>
    <template v-if="progress && (step?.handsOff || step?.kind === 'dry-run')">
      <svg
        class="bar"
        viewBox="0 0 628 46"
        preserveAspectRatio="none"
        role="progressbar"
        :aria-valuenow="Math.floor(share * 100)"
        aria-valuemin="0"
        aria-valuemax="100"
        :aria-label="`${step.kind}, percent acknowledged`"
      >
        <rect x=".5" y="10.5" width="627" height="25" fill="var(--sheet)" stroke="var(--edge)" />
        <rect x="0" y="10" :width="628 * share" height="26" fill="var(--brass)" />
        <path d="M157 10v26M314 10v26M471 10v26" stroke="var(--paper)" stroke-opacity=".6" />
        <path
          v-for="(mark, index) in marks"
          :key="index"
          :d="`M${628 * mark} 36v9`"
          stroke="var(--hold)"
          stroke-width="2"
        />
        <path :d="`M${Math.max(1, 628 * share)} 4v38`" stroke="var(--ink)" stroke-width="2" />
      </svg>
      <div class="figs">
        <div>
          <b>{{ Math.floor(share * 100) }} %</b>
          <span v-if="progress.unit === 'bytes'"
            >{{ groupedNumber(progress.done) }} of {{ bytesText(progress.total) }}</span
          >
          <span v-else>{{ progress.done }} of {{ progress.total }} sectors</span>
        </div>
        <div>
          <b>{{ clockText(stepLeft) }}</b>left of this step, {{ clockText(left) }} of this run, done at
          {{ doneAt
          }}<template v-if="later?.count"
            >; then {{ later.count }} more {{ later.count === 1 ? 'write' : 'writes' }},
            {{ durationText(later.ms) }} with your hands</template
          >
        </div>
        <div v-if="rate !== null && progress.unit === 'bytes'">
          <b>{{ rateText(rate) }}</b>acknowledged{{
            progress.retries ? `, ${progress.retries} sent again` : ''
          }}
        </div>
      </div>
    </template>

    <div v-if="stage" class="signs">
      <section v-if="stage.see.length">
        <h3>You should see</h3>
        <ul>
          <li v-for="sign in stage.see" :key="sign"><VerdictMark verdict="go" quiet />{{ sign }}</li>
        </ul>
      </section>
      <section v-if="stage.normal?.length">
        <h3>Normal, though it may alarm</h3>
        <ul>
          <li v-for="sign in stage.normal" :key="sign"><VerdictMark verdict="note" quiet />{{ sign }}</li>
        </ul>
      </section>
      <section v-if="stage.ifNot?.length">
        <h3>If not</h3>
        <ul>
          <li v-for="each in stage.ifNot" :key="each.sign">
            <VerdictMark verdict="hold" quiet />{{ each.sign }}. {{ each.do }}
          </li>
        </ul>
      </section>
    </div>

    <WhatItAsks
      v-if="
        family?.asks &&
        step &&
        ['erase', 'write', 'verify', 'restart'].includes(step.kind) &&
        writes(run.facts)
      "
      :asks="family.asks"
    />
    <div v-if="step?.kind === 'write'" class="abandon">
      <template v-if="leaving">
        <p><b>This leaves it behind:</b> {{ leaving.leaves }} {{ leaving.next }}</p>
        <div class="acts">
          <NButton :loading="abandoning.busy.value" @click="abandon">Abandon it half written</NButton>
          <NButton type="primary" @click="leaving = null">Keep writing</NButton>
        </div>
      </template>
      <button v-else class="quiet" type="button" @click="abandon">Abandon this write…</button>
      <ProblemNote v-if="abandoning.problem.value" :problem="abandoning.problem.value" />
    </div>
    <ProblemNote v-if="answering.problem.value" :problem="answering.problem.value" />
    <p v-if="!run.facts.port.id.startsWith('by-hand:')" class="small">
      <RouterLink :to="{ name: 'trace', query: { port: run.facts.port.id } }"
        >What goes over the link, row by row</RouterLink
      >
    </p>
    <p v-if="last.length" class="trace mono">
      <span v-for="event in last" :key="event.seq"
        ><b>{{ exactTimeText(event.at) }}</b> {{ eventWords(event, run.steps) }}</span
      >
    </p>
  </template>
</template>

<style scoped>
.coached {
  container-type: inline-size;
  margin-bottom: 20px;
}
.caution {
  border-left: 3px solid var(--hold);
  padding: 8px 14px;
  margin-bottom: 14px;
  font-size: 18px;
  background: var(--sheet);
}
.caution b {
  color: var(--hold);
}
.lost {
  font-size: 18px;
}
.bar {
  width: 100%;
  height: 46px;
  display: block;
}
.figs {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 44px;
  margin: 10px 0 24px;
}
.figs div {
  font-size: 13px;
  color: var(--soft);
}
.figs b {
  display: block;
  font-size: 34px;
  font-weight: 650;
  line-height: 1.15;
  color: var(--ink);
}
.signs {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 20px 36px;
  border-top: 1px solid var(--hair);
  padding-top: 20px;
}
.signs ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
.signs li {
  position: relative;
  padding: 0 0 10px 26px;
  font-size: 18px;
  line-height: 1.35;
}
.signs li > svg {
  position: absolute;
  left: 0;
  top: 5px;
}
.abandon {
  margin-top: 12px;
}
.quiet {
  font: inherit;
  font-size: 13px;
  color: var(--soft);
  background: none;
  border: 0;
  padding: 0;
  min-height: 44px;
  text-decoration: underline;
  cursor: pointer;
}
.trace {
  margin-top: auto;
  border-top: 1px solid var(--hair);
  padding: 11px 0 0;
  font-size: 13px;
  color: var(--soft);
  display: flex;
  gap: 22px;
  overflow: hidden;
  white-space: nowrap;
}
.trace b {
  color: var(--ink);
  font-weight: 500;
}
</style>
