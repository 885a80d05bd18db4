<script setup lang="ts">
import type { Fit, ReasonKind, Symptom } from '@bench-wake/core/fit'
import type { FamilyDocument } from '@bench-wake/core/family'
import type { KnownUnit } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
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
const weight = { go: 0, note: 1, hold: 2, unknown: 3, stop: 4 }
const choices = computed(() =>
  (bench.images ?? [])
    .map((image) => ({
      image,
      verdict: fits.value.find((each) => each.imageId === image.id)?.verdict ?? 'unknown',
    }))
    .filter(({ verdict }) => verdict !== 'stop')
    .sort((a, b) => weight[a.verdict] - weight[b.verdict]),
)
/** Components one may choose between; where all go together there is nothing to choose. */
const parts = computed(() => (family.updates.together ? [] : family.components))
const listed = computed(() => symptoms.value.filter(({ says }) => says.trim()))
const ready = computed(() => form.reason.trim() !== '' || (form.kind === 'fault' && listed.value.length > 0))
const start = () =>
  ask(async () => {
    const made = await got<{ id: string }>(
      api.jobs.$post({
        json: {
          unitId: unit.id,
          imageId: form.imageId || null,
          ...(form.imageId ? {} : { componentId: form.componentId }),
          kind: form.kind,
          reason: form.reason.trim() || listed.value.map(({ says }) => says).join('. '),
          symptoms: form.kind === 'fault' ? listed.value : [],
          day: new Date().toISOString().slice(0, 10),
        },
      }),
    )
    await router.push({ name: 'job', params: { id: made.id } })
  })
</script>

<template>
  <form class="form" @submit.prevent="start">
    <fieldset>
      <legend>Why is it being flashed?</legend>
      <label v-for="(says, kind) in reasonWords" :key="kind">
        <input v-model="form.kind" type="radio" name="kind" :value="kind" /> {{ says }}
      </label>
    </fieldset>
    <div v-if="form.kind === 'fault'" class="symptoms">
      <div v-for="(symptom, index) in symptoms" :key="index" class="symptom">
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
        <label class="small soft"
          >since
          <input
            v-model="symptom.since"
            type="date"
            class="native"
            :aria-label="`Since, symptom ${index + 1}`"
        /></label>
      </div>
      <NButton size="small" @click="symptoms.push({ says: '', often: '', since: '' })"
        >One more symptom</NButton
      >
    </div>
    <label
      >In a sentence
      <NInput
        v-model:value="form.reason"
        type="textarea"
        :autosize="{ minRows: 2 }"
        placeholder="What it should cure or bring, for whom"
    /></label>
    <label v-if="parts.length > 1 && !form.imageId"
      >What is it about?
      <select v-model="form.componentId" class="native">
        <option v-for="part in parts" :key="part.id" :value="part.id">{{ part.name }}</option>
      </select></label
    >
    <label
      >Image
      <select v-model="form.imageId" class="native">
        <option value="">Choose later</option>
        <option v-for="{ image, verdict } in choices" :key="image.id" :value="image.id">
          {{ verdictWords[verdict] }}: {{ image.name }}, {{ image.identity?.version ?? 'no version' }}
        </option>
      </select></label
    >
    <div class="acts">
      <NButton type="primary" attr-type="submit" :loading="busy" :disabled="!ready">Open the job</NButton>
      <NButton @click="emit('leave')">Leave it</NButton>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
  max-width: 760px;
  margin-bottom: 22px;
}
.form > label {
  display: grid;
  gap: 4px;
  font-size: 13px;
  color: var(--soft);
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 24px;
  border: 0;
  padding: 0;
  margin: 0;
}
legend {
  font-size: 13px;
  color: var(--soft);
  padding: 0;
}
fieldset label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 44px;
  cursor: pointer;
}
fieldset input {
  width: 20px;
  height: 20px;
  accent-color: var(--brass);
}
.symptoms {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.symptom {
  display: grid;
  grid-template-columns: 1.6fr 1fr auto;
  gap: 10px;
  align-items: center;
  width: 100%;
}
.symptom label {
  display: flex;
  gap: 8px;
  align-items: center;
}
.acts {
  display: flex;
  gap: 10px;
}
@media (max-width: 700px) {
  .symptom {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
