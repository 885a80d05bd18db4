<script setup lang="ts">
import { bestFirst, dayAt } from '@bench-wake/core/kernel'
import type { Fit, ReasonKind, Symptom } from '@bench-wake/core/fit'
import { drivenLink, type FamilyDocument } from '@bench-wake/core/family'
import { judgeTask, tasks, taskText, type Task } from '@bench-wake/core/run'
import type { KnownUnit } from '@bench-wake/server'
import { NButton, NInput, NRadio, NRadioGroup } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { familyOf } from '../family-of'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import PickDay from '../PickDay.vue'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { reasonWords, verdictWords } from '../words'

/** Why is it being flashed? Symptoms with how often and since when, so that afterwards someone can say (PRACTICE A6). */
const { unit, family } = defineProps<{ unit: KnownUnit; family: FamilyDocument }>()
const emit = defineEmits<{ leave: [] }>()
const router = useRouter()
const bench = useBench()
const { busy, problem, ask } = useAsked()
const judging = useAsked()
const form = reactive({
  task: 'write' as Task,
  kind: 'fault' as ReasonKind,
  reason: '',
  imageId: '',
  componentId: family.components[0]!.id,
})
const symptoms = ref<Symptom[]>([{ says: '', often: '', since: '' }])
const fits = ref<{ imageId: string; verdict: Fit['verdict'] }[]>([])

onMounted(() =>
  judging.ask(async () => {
    await bench.loadImages()
    fits.value = await got(api.fit.unit[':id'].$get({ param: { id: unit.id }, query: {} }))
  }),
)
const choices = computed(() =>
  (bench.images ?? [])
    .map((image) => ({
      image,
      verdict: fits.value.find((each) => each.imageId === image.id)?.verdict ?? 'unknown',
    }))
    .filter(({ verdict }) => verdict !== 'stop')
    .sort((a, b) => bestFirst(a.verdict, b.verdict)),
)
const imageChoices = computed(() => [
  { value: '', label: 'Choose later' },
  ...choices.value.map(({ image, verdict }) => ({
    value: image.id,
    label: `${verdictWords[verdict]}: ${image.name}, ${image.identity?.version ?? 'no version'}`,
  })),
])
/** Components one may choose between; where all go together there is nothing to choose. */
const parts = computed(() => (family.updates.together ? [] : family.components))
const listed = computed(() => symptoms.value.filter(({ says }) => says.trim()))
/** What this unit's link can do; the others are shown with the reason why not. */
const whyNot = computed(() => {
  const described = familyOf(family)
  const link = drivenLink(described) ?? null
  const component = described.components.find(({ id }) => id === form.componentId) ?? described.components[0]!
  const told = (task: Task) => {
    if (task === 'write') return null
    const chip = { socket: described.chipReplacement !== undefined, said: { label: 'x', mark: 'x' } }
    const { level, says } = judgeTask(task, component, link, { chosen: true }, chip)
    return level === 'stop' ? says : null
  }
  return Object.fromEntries(tasks.map((task) => [task, told(task)])) as Record<Task, string | null>
})
/** A read-out and the codes need no image. */
const needsImage = computed(() => form.task === 'write' || form.task === 'check')
/** A chip in a socket is offered where there is one. */
const shownTasks = computed(() => tasks.filter((task) => task !== 'chip' || family.chipReplacement))
const writing = computed(() => form.task === 'write')
const ready = computed(
  () => form.reason.trim() !== '' || !writing.value || (form.kind === 'fault' && listed.value.length > 0),
)
const start = () =>
  ask(async () => {
    const made = await got<{ id: string }>(
      api.jobs.$post({
        json: {
          unitId: unit.id,
          task: form.task,
          imageId: (needsImage.value && form.imageId) || null,
          ...(needsImage.value && form.imageId ? {} : { componentId: form.componentId }),
          kind: form.kind,
          reason:
            form.reason.trim() ||
            (writing.value ? listed.value.map(({ says }) => says).join('. ') : `${taskText[form.task]}.`),
          symptoms: writing.value && form.kind === 'fault' ? listed.value : [],
          day: dayAt(Date.now()),
        },
      }),
    )
    await router.push({ name: 'job', params: { id: made.id } })
  })
</script>

<template>
  <form class="form grid mb-5.5 gap-3.5 max-w-190" @submit.prevent="start">
    <fieldset class="flex m-0 p-0 gap-y-1 gap-x-6 flex-wrap bare-border">
      <legend class="p-0 small soft">What is to be done?</legend>
      <NRadioGroup v-model:value="form.task" name="task">
        <NRadio v-for="task in shownTasks" :key="task" :value="task" :disabled="whyNot[task] !== null">
          {{ taskText[task]
          }}<small v-if="whyNot[task]" class="block soft max-w-[30ch]">{{ whyNot[task] }}</small>
        </NRadio>
      </NRadioGroup>
    </fieldset>
    <fieldset v-if="writing" class="flex m-0 p-0 gap-y-1 gap-x-6 flex-wrap bare-border">
      <legend class="p-0 small soft">Why is it being flashed?</legend>
      <NRadioGroup v-model:value="form.kind" name="kind">
        <NRadio v-for="(says, kind) in reasonWords" :key="kind" :value="kind">{{ says }}</NRadio>
      </NRadioGroup>
    </fieldset>
    <div v-if="writing && form.kind === 'fault'" class="grid gap-2 justify-items-start">
      <div
        v-for="(symptom, index) in symptoms"
        :key="index"
        class="grid gap-2.5 grid-cols-[1.6fr_1fr_auto] items-center w-full phone:grid-cols-1"
      >
        <NInput
          v-model:value="symptom.says"
          placeholder="What it does"
          :input-props="{ 'aria-label': `Symptom ${index + 1}` }"
        />
        <NInput
          v-model:value="symptom.often"
          placeholder="How often"
          :input-props="{ 'aria-label': `How often, symptom ${index + 1}` }"
        />
        <label class="small soft flex gap-2 items-center"
          >since
          <PickDay :day="symptom.since || null" clearable @update:day="(day) => (symptom.since = day ?? '')"
        /></label>
      </div>
      <NButton size="small" @click="symptoms.push({ says: '', often: '', since: '' })"
        >One more symptom</NButton
      >
    </div>
    <label class="field"
      >In a sentence
      <NInput
        v-model:value="form.reason"
        type="textarea"
        :autosize="{ minRows: 2 }"
        :placeholder="
          writing ? 'What it should cure or bring, for whom' : 'What for, and for whom; may stay empty'
        "
    /></label>
    <div v-if="parts.length > 1 && (!form.imageId || !needsImage) && form.task !== 'codes'" class="field">
      <span>What is it about?</span>
      <PickOne
        v-model:value="form.componentId"
        label="What is it about?"
        :options="parts.map(({ id, name }) => ({ value: id, label: name }))"
      />
    </div>
    <label v-if="needsImage" class="field"
      >Image
      <PickOne v-model:value="form.imageId" label="Image" filterable :options="imageChoices" />
    </label>
    <div class="acts">
      <NButton type="primary" attr-type="submit" :loading="busy" :disabled="!ready">Open the job</NButton>
      <NButton @click="emit('leave')">Cancel</NButton>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
  </form>
</template>

<style scoped>
fieldset :deep(.n-radio) {
  min-height: 44px;
  align-items: center;
  margin-right: 24px;
}
</style>
