<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import type { UnitAnswer } from '@bench-wake/server'
import { NButton, NInput, NRadio, NRadioGroup } from 'naive-ui'
import { reactive, ref } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import VerdictMark from '../VerdictMark.vue'
import { dayText } from '../written'

/** How the unit is used: what the choice between variants of one version rests on (PRACTICE B7). */
const { unitId, family, answered } = defineProps<{
  unitId: string
  family: FamilyDocument
  answered: UnitAnswer[]
}>()
const emit = defineEmits<{ answered: [] }>()
/** The witness, who uses the unit: another person than the technician, and neither prefills the other. */
const name = ref(answered.at(-1)?.by ?? '')
const chosen = reactive<Record<string, string>>({})
const changing = ref<string | null>(null)
const { busy, problem, ask } = useAsked()

const given = (question: string) => answered.filter((each) => each.question === question).at(-1)
const keep = (question: string) =>
  ask(async () => {
    const json = { question, answer: chosen[question]!, by: name.value.trim() }
    await got(api.units[':id'].answers.$post({ param: { id: unitId }, json }))
    changing.value = null
    emit('answered')
  })
</script>

<template>
  <section v-for="question in family.questions ?? []" :key="question.id" class="question mt-6">
    <h2>How it is used</h2>
    <p>{{ question.asks }}</p>
    <p v-if="given(question.id) && changing !== question.id" class="flex gap-2.5 flex-wrap items-center">
      <VerdictMark verdict="go" quiet />
      <b>{{ question.answers.find(({ id }) => id === given(question.id)!.answer)?.says }}</b>
      <span class="small soft">{{ given(question.id)!.by }}, {{ dayText(given(question.id)!.at) }}</span>
      <NButton size="small" @click="changing = question.id">Change it</NButton>
    </p>
    <form v-else @submit.prevent="keep(question.id)">
      <NRadioGroup
        :value="chosen[question.id] ?? null"
        :name="question.id"
        :aria-label="question.asks"
        @update:value="(answer: string) => (chosen[question.id] = answer)"
      >
        <NRadio v-for="answer in question.answers" :key="answer.id" :value="answer.id">{{
          answer.says
        }}</NRadio>
      </NRadioGroup>
      <div class="acts grid gap-2.5 grid-cols-[minmax(0,220px)_auto] justify-start">
        <NInput
          v-model:value="name"
          placeholder="Who says so"
          :input-props="{ 'aria-label': 'Who says so' }"
        />
        <NButton attr-type="submit" :loading="busy" :disabled="!chosen[question.id] || !name.trim()"
          >Save answer</NButton
        >
      </div>
    </form>
    <ProblemNote v-if="problem" :problem="problem" />
  </section>
</template>

<style scoped>
.n-radio-group {
  display: grid;
}
.n-radio {
  min-height: 44px;
}
</style>
