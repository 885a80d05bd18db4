<script setup lang="ts">
import { isProblem } from '@bench-wake/core/kernel'
import {
  chemistryFacts,
  sums,
  workSum,
  type BenchInputs,
  type Chemistry,
  type SumAnswer,
} from '@bench-wake/core/ready'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, reactive, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import FindingList from '../parts/FindingList.vue'
import SumPicture from '../parts/SumPicture.vue'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import PartNav from '../parts/PartNav.vue'
import { asTyped, written } from '../parts/written'

/** Every calculator, by the same functions that the gates use. */
const parts = sums.map(({ id, name }) => ({ id, says: name }))
const asked = String(useRoute().query['sum'] ?? '')
const chosen = ref(sums.some(({ id }) => id === asked) ? asked : sums[0]!.id)
const sum = computed(() => sums.find(({ id }) => id === chosen.value)!)
const typed = reactive<Record<string, Record<string, string>>>(
  Object.fromEntries(
    sums.map(({ id, fields }) => [id, Object.fromEntries(fields.map((field) => [field.id, field.usual]))]),
  ),
)
const worked = computed<{ answer: SumAnswer } | { field: string; says: string }>(() => {
  try {
    const answers = typed[sum.value.id]!
    const read = sum.value.fields.map(({ id, measure }) => [id, asTyped(answers[id] ?? '', measure)])
    return { answer: workSum(sum.value, Object.fromEntries(read)) }
  } catch (error) {
    if (!isProblem(error)) throw error
    return { field: error.facts.place?.at ?? '', says: `${error.facts.says}; ${error.facts.expected ?? ''}` }
  }
})

/** Puts the answer into a job: its words, and what of it is said of the bench. */
const bench = useBench()
onMounted(() => bench.loadJobs().catch(() => {}))
const open = computed(() => (bench.jobs ?? []).filter(({ job }) => job.closedAt === null))
const jobId = ref<string | null>(null)
const jobOptions = computed(() =>
  open.value.map(({ job, unit }) => ({ value: job.id, label: `${unit.name}, ${job.day}` })),
)
const { busy, problem, ask } = useAsked()
const done = ref<string | null>(null)
watch([chosen, jobId], () => (done.value = null))
const put = () =>
  ask(async () => {
    if (!('answer' in worked.value) || jobId.value === null) return
    const view = open.value.find(({ job }) => job.id === jobId.value)!
    const { numbers, says } = worked.value.answer
    const words = `${sum.value.name}: ${says.map(({ label, value }) => `${label.toLowerCase()} ${value}`).join(', ')}`
    const kept = view.bench.sums ?? []
    const json: BenchInputs = {
      ...sum.value.puts?.(numbers),
      sums: [...kept.slice(-30), { sum: sum.value.id, says: words, at: Date.now() }],
    }
    await got(api.jobs[':id'].bench.$put({ param: { id: jobId.value }, json }))
    await bench.loadJobs()
    done.value = view.unit.name
  })
const choiceName = (id: string) => chemistryFacts[id as Chemistry]?.name ?? id
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Calculators</h1>
        <p class="soft">
          The same functions as the gates use. Figures with their units: 12,6 V, 500 mA, 14 AWG, 68 °F.
        </p>
      </div>
    </div>
    <div class="two grid pt-4 gap-10 grid-cols-[230px_minmax(0,1fr)] line-t">
      <PartNav v-model="chosen" :parts="parts" label="Calculators" />
      <section :aria-label="sum.name">
        <h2>{{ sum.name }}</h2>
        <div class="grid mt-3.5 mb-5 gap-4 fill-220">
          <label v-for="field in sum.fields" :key="sum.id + field.id" class="field content-start"
            >{{ field.label }}
            <PickOne
              v-if="field.choices"
              :value="typed[sum.id]?.[field.id] ?? null"
              :label="field.label"
              :options="field.choices.map((choice) => ({ value: choice, label: choiceName(choice) }))"
              @update:value="typed[sum.id]![field.id] = $event ?? ''"
            />
            <NInput
              v-else
              :value="typed[sum.id]?.[field.id] ?? ''"
              class="mono"
              :input-props="{ 'aria-label': field.label }"
              @update:value="typed[sum.id]![field.id] = $event"
            />
            <small v-if="'field' in worked && worked.field === field.id" class="fault">{{
              worked.says
            }}</small>
          </label>
        </div>
        <template v-if="'answer' in worked">
          <dl class="figures flex mt-0 mb-3.5 mx-0 gap-y-3.5 gap-x-11 flex-wrap items-end">
            <div
              v-for="(figure, index) in worked.answer.says"
              :key="figure.label"
              :class="{ first: index === 0 }"
            >
              <dt class="small soft">{{ figure.label }}</dt>
              <dd class="m-0 text-large font-650">{{ written(figure.value) }}</dd>
            </div>
          </dl>
          <SumPicture
            :picture="worked.answer.picture"
            :label="worked.answer.says.map(({ label, value }) => `${label}: ${value}`).join(', ')"
          />
          <FindingList v-if="worked.answer.findings.length" :findings="worked.answer.findings" />
        </template>
        <form
          v-if="'answer' in worked && open.length"
          class="flex mt-3 gap-3 flex-wrap items-end"
          @submit.prevent="put"
        >
          <div class="field content-start">
            <span>Put this into the job of</span>
            <PickOne
              v-model:value="jobId"
              label="Put this into the job of"
              :options="jobOptions"
              placeholder="Choose a job"
            />
          </div>
          <NButton attr-type="submit" :disabled="!jobId" :loading="busy">Use in job</NButton>
          <p v-if="done && jobId" role="status">
            It is in the job of {{ done }}.
            <RouterLink :to="{ name: 'job', params: { id: jobId } }">Open it</RouterLink>
          </p>
        </form>
        <ProblemNote v-if="problem" :problem="problem" />
        <p class="small soft source mt-3.5 pt-2.5 line-t">{{ sum.source }}</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.first dd {
  font-size: 44px;
  line-height: 1.1;
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
    gap: 16px;
  }
}
</style>
