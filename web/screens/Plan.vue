<script setup lang="ts">
import { clockText } from '@bench-wake/core/kernel'
import { linkOfJob, takeDownOf } from '@bench-wake/core/ready'
import type { PlanTime } from '@bench-wake/core/run'
import type { PlannedWrite } from '@bench-wake/server'
import { NButton, NTable } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import UnitAsks from '../parts/job/UnitAsks.vue'
import PlanList from '../parts/job/PlanList.vue'
import { useJobBench } from '../parts/job/useJobBench'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { postUpdateKindWords } from '../parts/words'
import { api, got } from '../stores/api'
import { durationText, written } from '../parts/written'

/** The whole plan on one sheet: every step with its time, signs and cautions, what comes after the proof, and what comes back. */
const id = String(useRoute().params['id'])
const { view, family, problem } = useJobBench(id)
const planning = useAsked()
/** Every write of every component, in its order. */
const whole = ref<{ writes: PlannedWrite[]; time: PlanTime } | null>(null)
onMounted(() =>
  planning.ask(async () => {
    whole.value = await got<{ writes: PlannedWrite[]; time: PlanTime }>(
      api.jobs[':id'].plan.$get({ param: { id } }),
    )
  }),
)
const back = computed(() => (family.value && view.value ? takeDownOf(family.value, view.value.bench) : []))
/** Signs and cautions of each stage of the plan, in its order. */
const stages = computed(() => {
  const own = family.value?.stages
  if (!own || !view.value) return []
  return view.value.plan.flatMap(({ kind, says }) =>
    kind in own ? [{ kind, says, ...own[kind as keyof typeof own] }] : [],
  )
})
/** The unit's own questions, where it takes its files from a card or stick by itself. */
const asks = computed(() =>
  family.value && view.value?.card
    ? linkOfJob(family.value, view.value.bench.wiring).medium?.update
    : undefined,
)
const widest = computed(() => Math.max(1, ...(whole.value?.writes ?? []).map(({ time }) => time.totalMs)))
const share = (ms: number) => `${(ms / widest.value) * 100}%`
/** The first write before this one whose steps are the same, with the same times. */
function like(index: number): number | null {
  const writes = whole.value!.writes
  const marks = (at: number) =>
    writes[at]!.steps.map(({ kind, likelyMs }) => `${kind} ${Math.round(likelyMs / 500)}`).join()
  const first = writes.findIndex((_, at) => marks(at) === marks(index))
  return first < index ? first : null
}
/** A write by its component; several that go in with one entry by how many they are. */
const titleOf = ({ componentNames }: PlannedWrite) =>
  componentNames.length === 1 ? componentNames[0]! : `${componentNames.length} components, one entry`
const print = () => window.print()
</script>

<template>
  <div class="page">
    <ProblemNote v-if="problem ?? planning.problem.value" :problem="(problem ?? planning.problem.value)!" />
    <p v-else-if="!view || !family || !whole" class="soft" role="status">Writing the plan…</p>
    <template v-else>
      <div class="head">
        <div>
          <h1>Plan: {{ view.unit.name }}</h1>
          <p class="soft">{{ family.name }}, serial {{ view.unit.serial }}, {{ view.unit.place }}.</p>
        </div>
        <div class="no-print acts gap-4.5">
          <NButton size="large" type="primary" @click="print">Print the plan</NButton>
          <RouterLink :to="{ name: 'job', params: { id } }">Back to the job</RouterLink>
        </div>
      </div>
      <p v-if="whole.writes.length === 0" class="lead">
        Nothing is to be written: no image is chosen, or none fits.
      </p>
      <template v-else>
        <p class="lead">
          {{
            whole.writes.length === 1 ? 'One write' : `${whole.writes.length} writes, one after the other`
          }}, {{ durationText(whole.time.totalMs) }} in all, between {{ durationText(whole.time.minMs) }} and
          {{ durationText(whole.time.maxMs) }}: {{ durationText(whole.time.personMs) }} of your hands.
        </p>
        <ol
          v-if="whole.writes.length > 1"
          class="my-2.5 mx-0 p-0 list-none"
          aria-label="Every write in order"
        >
          <li
            v-for="(write, index) in whole.writes"
            :key="index"
            class="grid py-1 gap-y-1.5 gap-x-3 items-center line-t grid-cols-[minmax(120px,1fr)_150px_minmax(90px,1.2fr)_120px_60px] phone:grid-cols-[1fr_auto]"
          >
            <span>{{ titleOf(write) }}</span>
            <span class="mono"
              >{{ write.hops[0]!.from ?? 'not known' }} → {{ write.hops[0]!.to ?? 'no version' }}</span
            >
            <span class="mono soft small">{{ write.hops[0]!.imageName }}</span>
            <span class="h-2 phone:hidden" aria-hidden="true"
              ><i class="block h-full bg-hull" :style="{ width: share(write.time.totalMs) }"
            /></span>
            <span class="text-right">{{ clockText(write.time.totalMs) }}</span>
          </li>
        </ol>
        <section v-for="(write, index) in whole.writes" :key="index" class="break-inside-avoid">
          <h2>
            {{ index + 1 }}. {{ titleOf(write) }}, {{ write.hops[0]!.from ?? 'not known' }} to
            {{ write.hops[0]!.to ?? 'no version' }}
          </h2>
          <p v-if="write.hops.length > 1" class="soft">
            In this order: {{ write.componentNames.join('; ') }}. One entry, one restart, and the unit says
            each version itself.
          </p>
          <template v-for="hop in write.hops" :key="hop.imageId">
            <p v-if="hop.noWayBack" class="caution block pl-2">No way back from here. {{ hop.noWayBack }}</p>
          </template>
          <p v-if="like(index) !== null" class="soft">Step by step as in {{ like(index)! + 1 }}.</p>
          <PlanList v-else :steps="write.steps" :time="write.time" />
        </section>
        <section v-if="family.powerOrder?.on.length">
          <h2>Power, in order</h2>
          <ol>
            <li v-for="item in family.powerOrder.on" :key="item.id" class="mb-1.5">
              {{ item.does }}
              <span v-if="item.caution" class="caution block pl-2">{{ written(item.caution) }}</span>
            </li>
          </ol>
          <p class="soft">
            Never below {{ family.power.floorVolts }} V nor above {{ family.power.ceilingVolts }} V in erase
            and write.
          </p>
        </section>
        <section v-if="asks">
          <h2>What the unit asks</h2>
          <UnitAsks :update="asks" />
        </section>
        <section v-else-if="view.byHand && family.chipReplacement">
          <h2>The chip, step by step</h2>
          <ol>
            <li v-for="item in family.chipReplacement" :key="item.id" class="mb-1.5">
              {{ item.does }}
              <span v-if="item.caution" class="caution block pl-2">{{ written(item.caution) }}</span>
            </li>
          </ol>
        </section>
        <section v-else>
          <h2>What you will see</h2>
          <NTable v-columns :bordered="false" class="list">
            <thead>
              <tr>
                <th>Step</th>
                <th>You should see</th>
                <th>Alarming and normal</th>
                <th>Never, or mind</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="stage in stages" :key="stage.kind">
                <td class="align-top">{{ written(stage.says) }}</td>
                <td class="align-top">{{ stage.see.join(' ') }}</td>
                <td class="align-top">{{ stage.normal?.join(' ') }}</td>
                <td class="align-top">
                  {{ ['erase', 'write'].includes(stage.kind) ? 'No hand on plug, lid, key or supply.' : '' }}
                  {{ written(stage.caution) }}
                </td>
              </tr>
            </tbody>
          </NTable>
        </section>
        <section v-if="family.postUpdateTasks?.length">
          <h2>After verification</h2>
          <ol>
            <li v-for="item in family.postUpdateTasks" :key="item.id" class="mb-1.5">
              <span class="soft">{{ postUpdateKindWords[item.kind] }}.</span> {{ item.does }}
              {{ item.expect }}
              <span v-if="item.caution" class="caution block pl-2">{{ written(item.caution) }}</span>
            </li>
          </ol>
        </section>
        <section v-if="back.length">
          <h2>Back in order</h2>
          <ol>
            <li v-for="item in back" :key="item.id" class="mb-1.5">☐ {{ item.does }}</li>
          </ol>
        </section>
      </template>
    </template>
  </div>
</template>

<style scoped>
section {
  margin-top: 22px;
}
</style>
