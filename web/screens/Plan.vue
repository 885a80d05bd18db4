<script setup lang="ts">
import { durationText } from '@bench-wake/core/kernel'
import { takeDownOf } from '@bench-wake/core/ready'
import type { PlanTime } from '@bench-wake/core/run'
import type { PlannedWrite } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import PlanList from '../parts/job/PlanList.vue'
import { useJobBench } from '../parts/job/useJobBench'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { careKindWords } from '../parts/words'
import { api, got } from '../stores/api'

/** The whole plan on one sheet: every step with its time, signs and cautions, what comes behind the proof, and what comes back. */
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
        <div class="no-print acts">
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
          }}, {{ durationText(whole.time.totalMs) }} in all, between
          {{ durationText(whole.time.leastMs) }} and {{ durationText(whole.time.mostMs) }}:
          {{ durationText(whole.time.personMs) }} of your hands.
        </p>
        <section v-for="(write, index) in whole.writes" :key="write.hop.imageId + index" class="write">
          <h2>
            {{ index + 1 }}. {{ write.componentName }}, {{ write.hop.from ?? 'not known' }} to
            {{ write.hop.to ?? 'no version' }}
          </h2>
          <p class="soft small">
            {{ write.hop.imageName }}<b v-if="write.hop.noWayBack" class="caution">No way back from here.</b>
          </p>
          <PlanList :steps="write.steps" :time="write.time" of="" />
        </section>
        <section v-if="family.powerOrder?.on.length">
          <h2>Power, in order</h2>
          <ol>
            <li v-for="item in family.powerOrder.on" :key="item.id">
              {{ item.does }} <span v-if="item.caution" class="caution">{{ item.caution }}</span>
            </li>
          </ol>
          <p class="soft">
            Never below {{ family.power.floorVolts }} V nor above {{ family.power.ceilingVolts }} V in erase
            and write.
          </p>
        </section>
        <section v-if="family.swap">
          <h2>The chip, step by step</h2>
          <ol>
            <li v-for="item in family.swap" :key="item.id">
              {{ item.does }} <span v-if="item.caution" class="caution">{{ item.caution }}</span>
            </li>
          </ol>
        </section>
        <section v-else>
          <h2>What you will see</h2>
          <table class="list">
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
                <td>{{ stage.says }}</td>
                <td>{{ stage.see.join(' ') }}</td>
                <td>{{ stage.normal?.join(' ') }}</td>
                <td>
                  {{ ['erase', 'write'].includes(stage.kind) ? 'No hand on plug, lid, key or supply.' : '' }}
                  {{ stage.caution }}
                </td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="family.aftercare?.length">
          <h2>Behind the proof</h2>
          <ol>
            <li v-for="item in family.aftercare" :key="item.id">
              <span class="soft">{{ careKindWords[item.kind] }}.</span> {{ item.does }} {{ item.expect }}
              <span v-if="item.caution" class="caution">{{ item.caution }}</span>
            </li>
          </ol>
        </section>
        <section v-if="back.length">
          <h2>Back in order</h2>
          <ol>
            <li v-for="item in back" :key="item.id">☐ {{ item.does }}</li>
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
.write {
  break-inside: avoid;
}
li {
  margin-bottom: 6px;
}
.caution {
  display: block;
  border-left: 3px solid var(--hold);
  padding-left: 8px;
}
td {
  vertical-align: top;
}
</style>
