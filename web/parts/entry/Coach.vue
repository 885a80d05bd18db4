<script setup lang="ts">
import type { EntryAct, EntryScript, EntrySign, Panel, Shown } from '@bench-wake/core/family'
import {
  beginEntry,
  judgeEntry,
  offText,
  signShown,
  windowBar,
  type EntryEvent,
  type EntryExpects,
  type EntryState,
  type Help,
  type UsbIds,
} from '@bench-wake/core/entry'
import { useRafFn } from '@vueuse/core'
import { inSentence } from '@bench-wake/core/kernel'
import { NButton } from 'naive-ui'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { cue } from '../../stores/cue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { useSettled } from '../useSettled'
import HandKeys from './HandKeys.vue'
import PanelPicture from './PanelPicture.vue'
import { roleNames } from './roles'
import SignChoice from './SignChoice.vue'
import WindowBar from './WindowBar.vue'
import { written } from '../written'

/**
 * Leads through a timed entry: one instruction, the window drawn as it runs, what the unit should show. Enter or Space
 * says "now" for whatever is due; a key for each hand is held as the hand holds.
 */
const {
  script,
  panel,
  tries,
  help = 'full',
  drill = false,
  answered = false,
  expects = {},
  heard = null,
  came = null,
  perform = null,
} = defineProps<{
  script: EntryScript
  panel: Panel | undefined
  tries: number
  help?: Help
  /** On a stand-in: the unit shows its sign by itself, and the person has to know it. */
  drill?: boolean
  /** True when the link heard the bootloader. */
  answered?: boolean
  /** By what the link tells the bootloader. */
  expects?: EntryExpects
  /** What came over the line instead. */
  heard?: string | null
  /** A port or device that was not there before. */
  came?: { usb?: UsbIds } | null
  /** Does over the link what the entry asks of the program; null where the program has no link to do it over. */
  perform?: ((act: EntryAct) => Promise<void>) | null
}>()
const emit = defineEmits<{
  over: [state: EntryState, misread: boolean]
  stuck: []
  /** Every act is done in its time: a stand-in at the port does what a unit would. */
  worked: []
  /** A try begins, from power off. */
  begun: []
}>()

const now = ref(0)
/** A drill begins by itself; before a real unit a person says when, and nothing goes over the link until then. */
const started = ref(drill)
const state = ref<EntryState>(beginEntry(script, performance.now(), expects))
const tried = ref(1)
const shown = ref<EntrySign | null>(null)
const misread = ref(false)

function take(event: EntryEvent) {
  const before = state.value
  state.value = judgeEntry(before, event)
  if (state.value === before) return
  if (state.value.outcome === 'in') cue('done')
  else if (state.value.outcome === 'failed') cue('fail')
  else cue('ask')
  if (drill && !shown.value) {
    // A stand-in shows what a unit would: in time its sign, else its normal start.
    const sign = signShown(state.value)
    if (sign) setTimeout(() => (shown.value = sign), Math.min(900, script.signWithinMs))
  }
  if (state.value.outcome !== 'going' && !drill) emit('over', state.value, false)
}
useRafFn(() => {
  now.value = performance.now()
  if (started.value && state.value.outcome === 'going') take({ at: now.value, type: 'tick' })
})
watch(
  () => heard,
  (text) => text && take({ at: performance.now(), type: 'heard', text }),
)
watch(
  () => came,
  (port) => port && take({ at: performance.now(), type: 'port-came', ...port }),
)
watch(
  () => answered,
  (heard) => heard && take({ at: performance.now(), type: 'answered' }),
)

const due = computed(() => (state.value.outcome === 'going' ? state.value.acts[state.value.step] : undefined))
const awaiting = computed(
  () => state.value.outcome === 'going' && state.value.step >= state.value.acts.length,
)
function begin() {
  started.value = true
  state.value = beginEntry(script, performance.now(), expects)
  emit('begun')
}
watch(awaiting, (done) => done && emit('worked'))
const performing = useAsked()
/** What the program does is done over the link, and ticked when it was. A drill's unit is simulated here in the page. */
async function performDue() {
  const act = due.value
  if (!started.value || act?.by !== 'program') return
  const tick = () => {
    if (due.value === act) take({ at: performance.now(), type: 'did', act: act.act, what: act.what })
  }
  if (drill) setTimeout(tick, 700)
  else if (perform)
    await performing.ask(async () => {
      if (due.value !== act) return
      await perform(act)
      tick()
    })
}
watch(() => [due.value, perform, started.value] as const, performDue, { immediate: true })

const bar = computed(() => windowBar(state.value, now.value))
watch(
  () => bar.value?.open,
  (open) => {
    if (open && help !== 'none') cue('ask')
  },
)

const advance = () => {
  const act = due.value
  if (!started.value) return
  // Where the program has no link the person does it with the tool they have, and says so.
  if (!act || (act.by === 'program' && (drill || perform))) return
  take({ at: performance.now(), type: 'did', act: act.act, what: act.what })
}
function sawSign(sign: EntrySign) {
  if (drill && shown.value && sign.id !== shown.value.id) {
    misread.value = true
    cue('fail')
    return
  }
  if (state.value.outcome === 'going') take({ at: performance.now(), type: 'sign', id: sign.id })
  if (drill) emit('over', state.value, misread.value)
}
function again() {
  tried.value++
  emit('begun')
  shown.value = null
  misread.value = false
  state.value = beginEntry(script, performance.now(), expects)
}

const showing = computed(() => {
  const shows: Record<string, { shown: Shown; text?: string }> = {}
  const sign = drill
    ? shown.value
    : state.value.outcome === 'in'
      ? (state.value.sign ?? goodSign.value)
      : awaiting.value
        ? goodSign.value
        : null
  if (sign?.part) shows[sign.part] = { shown: sign.shown, ...(sign.text ? { text: sign.text } : {}) }
  return shows
})
const goodSign = computed(() => script.signs.find(({ tells }) => tells === 'in'))
const failure = computed(() => state.value.failure)
const failedAct = computed(() => (failure.value ? state.value.acts[failure.value.step] : undefined))
/** Behind a failed act in a drill the unit shows its sign, and it has to be known. */
const asksSign = computed(() => (drill ? shown.value !== null : awaiting.value))

const box = ref<HTMLElement>()
const focusNext = async () => {
  await nextTick()
  box.value?.querySelector<HTMLElement>('[data-primary]')?.focus()
}
onMounted(focusNext)
watch([started, () => state.value.step, () => state.value.outcome, shown], focusNext)

/** A press meant for an act that was over would begin anew and hide why; whoever is at an act presses late, too. */
const unread = useSettled(() => (state.value.outcome === 'failed' ? 'failed' : undefined), focusNext, 700)
</script>

<template>
  <div
    ref="box"
    class="coach grid gap-8.5 grid-cols-[minmax(0,1fr)_minmax(300px,480px)] items-start slim:grid-cols-1"
  >
    <div v-if="!started">
      <p class="where mb-1.5 small soft">
        {{ state.acts.length }} {{ state.acts.length === 1 ? 'act: read it' : 'acts: read them' }} first
      </p>
      <h2 class="say text-title leading-[1.15] font-650 min-h-20 slim:text-large slim:min-h-15">
        Begin from power off.
      </h2>
      <ol class="mt-0 mb-4.5 mx-0 pl-6 text-lead">
        <li v-for="(act, index) in state.acts" :key="index" class="py-1">
          {{ written(act.says) }}
          <small v-if="act.by === 'program'" class="soft block">The program does it over the link.</small>
        </li>
      </ol>
      <div class="acts mt-4 mb-2.5 gap-3">
        <NButton data-primary type="primary" size="large" @click="begin">Begin the entry</NButton>
      </div>
      <p class="small soft">Nothing goes to the unit before that.</p>
      <p class="more">
        <button type="button" class="textlike" @click="emit('stuck')">It does not answer</button>
      </p>
    </div>
    <div v-else>
      <p class="where mb-1.5 small soft">
        <template v-if="due"
          >Act {{ state.step + 1 }} of {{ state.acts.length }},
          {{ roleNames[due.by].toLowerCase() }}</template
        >
        <template v-else-if="state.outcome === 'going'">The acts are done</template>
        <template v-else>Try {{ tried }} of {{ tries }}</template>
      </p>
      <h2
        class="say text-title leading-[1.15] font-650 min-h-20 slim:text-large slim:min-h-15"
        aria-live="assertive"
      >
        <template v-if="state.outcome === 'in' && !(drill && asksSign)">It is in.</template>
        <template v-else-if="drill && asksSign">What does the unit show?</template>
        <template v-else-if="failure">{{ failure.why }}</template>
        <template v-else-if="due">{{ written(help === 'full' ? due.says : 'What comes next?') }}</template>
        <template v-else>What does it show now?</template>
      </h2>

      <WindowBar v-if="bar && help !== 'none' && due" :bar="bar" />

      <p v-if="help === 'full' && due && goodSign" class="soft">
        When all is done: <b>{{ written(goodSign.says.toLowerCase()) }}</b> is success.
        <template v-for="sign in script.signs.filter(({ tells }) => tells === 'not-in')" :key="sign.id">
          {{ `${written(sign.says)}: ${written(inSentence(sign.means))} ` }}
        </template>
      </p>
      <template v-if="state.outcome === 'going' && due?.by === 'program'">
        <p v-if="performing.busy.value || drill" class="soft" role="status">The program does this.</p>
        <ProblemNote v-if="performing.problem.value" :problem="performing.problem.value" />
        <div class="acts mt-4 mb-2.5 gap-3">
          <NButton
            v-if="perform && performing.problem.value"
            data-primary
            type="primary"
            size="large"
            @click="performDue"
            >Retry</NButton
          >
          <NButton v-if="!perform && !drill" data-primary type="primary" size="large" @click="advance"
            >I have done it with my own tool</NButton
          >
        </div>
        <p v-if="!perform && !drill" class="small soft">
          The program has no port here to do it over: choose one, or do it yourself.
        </p>
      </template>
      <template v-else-if="state.outcome === 'going' && due">
        <div class="acts mt-4 mb-2.5 gap-3">
          <NButton data-primary type="primary" size="large" @click="advance">
            {{ help === 'full' ? 'Done, now' : 'Now' }}
          </NButton>
        </div>
      </template>
      <HandKeys
        v-if="state.outcome === 'going'"
        v-show="due && due.by !== 'program'"
        :key="tried"
        :state="state"
        @act="take"
      />
      <SignChoice
        v-if="asksSign"
        :signs="script.signs"
        :expected="!drill && help === 'full' ? goodSign : undefined"
        :misread="misread"
        @saw="sawSign"
      />

      <div v-if="state.outcome === 'failed' && !drill" class="failed mt-3 text-lead">
        <p v-if="failure && offText(failure)" class="off text-title font-650 text-stop">
          {{ offText(failure) }}
        </p>
        <p>{{ written(failure?.do) }}</p>
        <p v-if="failedAct" class="small soft">At: {{ written(failedAct.says) }}</p>
        <div class="acts mt-4 mb-2.5 gap-3">
          <NButton data-primary type="primary" size="large" :disabled="unread" @click="again"
            >Once more, from power off</NButton
          >
          <NButton size="large" @click="emit('stuck')">It does not answer: find out why</NButton>
        </div>
      </div>
      <slot v-if="state.outcome === 'in'" name="in" />
      <p v-if="state.outcome === 'going' && !drill" class="more">
        <button type="button" class="textlike" @click="emit('stuck')">It does not answer</button>
      </p>
    </div>
    <PanelPicture
      v-if="panel"
      :panel="panel"
      :shows="showing"
      :held="Object.keys(state.held)"
      :due="help === 'full' ? (due?.what ?? null) : null"
    />
  </div>
</template>

<style scoped>
.coach .say {
  letter-spacing: -0.01em;
}
/* Where it leads within a run it has the width of the deck alone. */
@container (max-width: 800px) {
  .coach {
    grid-template-columns: minmax(0, 1fr);
    gap: 18px;
  }
  .coach .say {
    min-height: 0;
    margin-bottom: 14px;
  }
}
.sign {
  font-size: 24px;
  min-height: 64px;
  text-align: left;
  touch-action: auto;
}
</style>
