<script setup lang="ts">
import { dayAt } from '@bench-wake/core/kernel'
import type { FamilyDocument } from '@bench-wake/core/family'
import { checkText, isEqual } from '@bench-wake/core/link'
import { proofHolds } from '@bench-wake/core/proof'
import {
  closingLeft,
  closingList,
  endingText,
  foundOut,
  notWell,
  askAgainOn,
  usualFollowUpDays,
  type SymptomWord,
} from '@bench-wake/core/job'
import { conditionOf, guidance, taskText, writes, type RunState } from '@bench-wake/core/run'
import { logbookRow } from '@bench-wake/core/record'
import type { JobView } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { familyOf } from '../family-of'
import { api, got } from '../../stores/api'
import { useLook } from '../../stores/look'
import ComparedTable from '../ComparedTable.vue'
import FindingList from '../FindingList.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import ClosingList from './ClosingList.vue'
import FollowUp from './FollowUp.vue'
import KeptSettings from './KeptSettings.vue'
import SymptomsNow from './SymptomsNow.vue'
import { useBenchSay } from './bench-inputs'
import { durationText, whenText } from '../written'

const { view, run, family } = defineProps<{
  view: JobView
  run: RunState | null
  family: FamilyDocument | undefined
}>()
const emit = defineEmits<{ closed: []; said: [] }>()
const look = useLook()
const form = reactive({ name: look.name, note: '' })
/** What was reported is asked here; what cannot be said yet is asked again (PRACTICE A6). */
const symptoms = ref<SymptomWord[]>(view.job.symptoms.map(({ says }) => ({ says, now: 'not-known' })))
const askAgain = ref<string | null>(dayAt(Date.now(), usualFollowUpDays))
const stillThere = computed(() => symptoms.value.some(({ now }) => now === 'there'))
const { busy, problem, ask } = useAsked()
const proved = computed(() => run?.outcome === 'proved')
/** A task that writes nothing came to its end: what it found out is the answer. */
const found = computed(() => (run ? foundOut(run) : null))
/** What came back is kept with the bench: over a reload, and for the next one who closes. */
const desk = useBenchSay(view.job.id, view.bench, () => emit('said'))
const back = computed({
  get: () => desk.say.back ?? [],
  set: (ids: string[]) => {
    desk.say.back = ids
    desk.keep('back')
  },
})
/** What comes back and post-update tasks, in one order (PRACTICE I2, I3, J1 to J3). */
const closing = computed(() =>
  family ? closingList(familyOf(family), { said: desk.say, back: back.value, run }) : [],
)
/** What was said after the proof to be not well: the unit is then not fit for use, whatever it shows. */
const bad = computed(() => (run && proved.value ? notWell(run) : []))
const due = computed(() => closingLeft(closing.value).length)
/** What of the proof wants a word: a line that should have changed, an image without a version. */
const held = computed(() => proofHolds(run?.findings ?? []))
const ready = computed(
  () =>
    form.name.trim() !== '' &&
    due.value === 0 &&
    (found.value !== null ||
      (proved.value && held.value.length === 0 && !stillThere.value) ||
      form.note.trim() !== ''),
)
/** Enter at the name goes on to the first thing that is due. */
const named = (event: KeyboardEvent) => {
  if (ready.value || !form.name.trim()) return
  event.preventDefault()
  document.querySelector<HTMLElement>('[data-closing] [data-next]:not(:disabled)')?.focus()
}
// With the last tick the one next thing is to close.
watch(ready, async (now) => {
  await nextTick()
  const active = document.activeElement
  if (now && !(active instanceof HTMLInputElement && active.type !== 'checkbox')) {
    document.querySelector<HTMLElement>('[data-close] [data-primary]')?.focus()
  }
})
/** False where a check found something else than the image. */
const same = computed(
  () => run?.facts.task !== 'check' || (run.heldAgainst !== null && isEqual(run.heldAgainst)),
)
const row = computed(() => (run ? logbookRow(run) : null))

const close = () =>
  ask(async () => {
    look.name = form.name.trim()
    await desk.flush()
    await got(
      api.jobs[':id'].close.$post({
        param: { id: view.job.id },
        json: {
          name: form.name.trim(),
          note: form.note,
          ...(run && symptoms.value.length ? { symptoms: symptoms.value } : {}),
          ...(run && askAgain.value && symptoms.value.some(({ now }) => now === 'not-known')
            ? { askAgain: askAgain.value }
            : {}),
        },
      }),
    )
    emit('closed')
  })
</script>

<template>
  <template v-if="view.job.closedAt !== null">
    <p class="where">Closed by {{ view.job.closedBy }}, {{ whenText(view.job.closedAt) }}</p>
    <h2 class="say calm">
      <VerdictMark :verdict="view.headline.verdict" :size="24" /> {{ found ?? `${endingText[view.cameTo]}.` }}
    </h2>
    <p v-if="view.job.closingNote" class="lead">{{ view.job.closingNote }}</p>
    <FollowUp v-if="askAgainOn(view.job.history)" :view="view" @done="emit('closed')" />
    <div class="acts">
      <RouterLink v-if="row" data-primary :to="{ name: 'record', params: { id: row.runId } }"
        >Open the record</RouterLink
      >
      <RouterLink :to="{ name: 'logbook' }">To the logbook</RouterLink>
    </div>
  </template>
  <template v-else>
    <template v-if="proved">
      <p class="where">Proof, read from the unit after the power cycle</p>
      <h2 class="say">
        <VerdictMark :verdict="held.length || bad.length ? 'hold' : 'go'" :size="32" />
        {{
          held[0]?.says ??
          (bad.length
            ? `The unit says ${row?.to ?? 'its version'} itself, and is not fit for use.`
            : `The unit says ${row?.to ?? 'its version'} itself.`)
        }}
      </h2>
      <ul v-if="bad.length" class="soft" aria-label="Not well">
        <li v-for="each in bad" :key="each.item">{{ each.does }} {{ each.note }}</li>
      </ul>
    </template>
    <template v-else-if="found && run">
      <p class="where">{{ taskText[run.facts.task ?? 'write'] }}. Nothing was written.</p>
      <h2 class="say calm"><VerdictMark :verdict="same ? 'go' : 'note'" :size="24" /> {{ found }}</h2>
      <p v-if="run.backups[0]?.imageId" class="lead">
        <RouterLink
          v-for="each in run.backups.filter(({ imageId }) => imageId)"
          :key="each.address"
          :to="{ name: 'image', params: { id: each.imageId } }"
          >Open it on the shelf</RouterLink
        >
      </p>
    </template>
    <template v-else>
      <p class="where">Closing without a proof</p>
      <h2 class="say"><VerdictMark verdict="hold" :size="32" /> {{ endingText[view.cameTo] }}.</h2>
      <p v-if="run" class="lead">{{ guidance[conditionOf(run)].says }}</p>
    </template>
    <FindingList v-if="held.length" :findings="held" />
    <p v-if="row && proved" class="lead">
      {{ row.from ?? 'not known' }} to {{ row.to ?? 'not known' }} in {{ durationText(row.tookMs) }},
      {{ run?.verified ? checkText(run.verified) : 'not compared' }}, {{ row.retries }}
      {{ row.retries === 1 ? 'retry' : 'retries' }}.
    </p>
    <form
      data-close
      class="grid mb-5 gap-3.5 grid-cols-[1fr_auto] items-end narrow:grid-cols-[1fr]"
      @submit.prevent="close"
    >
      <label class="field name col-span-full max-w-80"
        >Your name
        <NInput
          v-model:value="form.name"
          placeholder="Who says so, and closes it"
          :autofocus="!form.name"
          :input-props="{ name: 'name', autocomplete: 'name' }"
          @keydown.enter="named"
      /></label>
      <KeptSettings
        v-if="family?.backup?.settings && run && writes(run.facts)"
        :job-id="view.job.id"
        :settings="family.backup.settings"
        :desk="desk"
        readonly
        class="col-span-full"
      />
      <ClosingList
        v-if="closing.length"
        v-model:back="back"
        :items="closing"
        :run-id="run?.facts.runId ?? null"
        :by="form.name.trim()"
        class="col-span-full"
        @said="emit('said')"
      />
      <p v-if="run?.faults && !found" class="small col-span-full">
        Fault codes: {{ run.faults.before }} before clearing, {{ run.faults.after }} after.
      </p>
      <SymptomsNow
        v-if="view.job.symptoms.length && run"
        v-model="symptoms"
        v-model:day="askAgain"
        class="col-span-full"
      />
      <label class="field"
        >Last word
        <NInput
          v-model:value="form.note"
          :placeholder="
            stillThere
              ? 'What is done about it next'
              : held.length
                ? 'Why it may be so'
                : bad.length
                  ? 'What becomes of the unit until it is well'
                  : proved || found
                    ? found
                      ? 'Anything left open; may stay empty'
                      : 'Function test, anything left open'
                    : 'What became of the unit, and who knows of it'
          "
          :input-props="{ name: 'note' }"
      /></label>
      <NButton data-primary type="primary" size="large" attr-type="submit" :disabled="!ready" :loading="busy">
        {{
          found || (proved && !bad.length)
            ? 'Close the job'
            : proved
              ? 'Close it: not fit for use'
              : 'Close it without a proof'
        }}
      </NButton>
    </form>
    <ProblemNote v-if="problem" :problem="problem" />
    <ComparedTable v-if="run?.compared.length" :rows="run.compared" />
  </template>
</template>
