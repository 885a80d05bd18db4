<script setup lang="ts">
import { askAgainOn } from '@bench-wake/core/job'
import { durationText } from '@bench-wake/core/kernel'
import { taskText } from '@bench-wake/core/run'
import { logbookRow } from '@bench-wake/core/record'
import { versionsText } from '@bench-wake/core/unit'
import type { JobView } from '@bench-wake/server'
import { NButton, NTable } from 'naive-ui'
import { computed, onMounted } from 'vue'
import { useRouter } from 'vue-router'
import FirstStart from '../parts/FirstStart.vue'
import FollowUp from '../parts/job/FollowUp.vue'
import RoundsNow from '../parts/rounds/RoundsNow.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import WakeStrip from '../parts/WakeStrip.vue'
import { dayText, nearDayText, verdictWords } from '../parts/words'
import { useBench } from '../stores/bench'

const bench = useBench()
const router = useRouter()
const { problem, ask } = useAsked()
onMounted(() => ask(() => bench.loadJobs()))

const weight = { note: 0, go: 1, hold: 2, stop: 3, unknown: 4 }
const open = computed(() =>
  (bench.jobs ?? [])
    .filter(({ job }) => job.closedAt === null)
    .sort(
      (a, b) => a.job.day.localeCompare(b.job.day) || weight[a.headline.verdict] - weight[b.headline.verdict],
    ),
)
/** Closed jobs whose symptom is due to be asked after again. */
const today = new Date().toISOString().slice(0, 10)
const again = computed(() =>
  (bench.jobs ?? []).filter(({ job }) => {
    const day = job.closedAt === null ? null : askAgainOn(job.history)
    return day !== null && day <= today
  }),
)
const next = computed(() => open.value[0])
/** What is to be taken along, day by day. */
const kits = computed(() => {
  const days = new Map<string, Map<string, boolean>>()
  for (const { job, kit } of open.value) {
    const day = days.get(job.day) ?? new Map<string, boolean>()
    for (const { id, packed } of kit) day.set(id, packed)
    days.set(job.day, day)
  }
  return [...days].map(([day, items]) => ({
    day,
    all: items.size,
    packed: [...items.values()].filter(Boolean).length,
  }))
})

function versions({ fit, unit }: JobView): string {
  const [first, last] = [fit?.path[0], fit?.path.at(-1)]
  if (first && last) return `${last.componentId} ${first.from ?? 'not known'} to ${last.to ?? 'not known'}`
  return versionsText(unit.facts.versions) || 'not known'
}
function hops({ fit, need, requests, left, stays, job }: JobView): string {
  if (job.task !== 'write') return taskText[job.task]
  if (!fit)
    return requests.length > 0
      ? 'image awaited'
      : need.answer === 'nothing'
        ? 'nothing to do'
        : 'no image chosen'
  if (fit.path.length === 0) return 'no way'
  if (fit.path.length === 1) return 'one step'
  const writes = `${left.length || fit.path.length} writes`
  if (stays.length === 0 || stays.length === left.length) return writes
  return `${writes}, ${stays.length === 1 ? 'one entry' : `${stays.length} entries`}`
}
</script>

<template>
  <div class="page">
    <ProblemNote v-if="problem" :problem="problem" />
    <section v-else-if="next" class="next">
      <div>
        <p class="small soft">Next, {{ next.unit.place }}, {{ dayText(next.job.day) }}</p>
        <h1>{{ next.unit.name }}: {{ next.headline.says.replace(/\.$/, '') }}</h1>
        <p class="lead">{{ next.headline.remedy ?? next.job.reason }}</p>
      </div>
      <NButton
        type="primary"
        size="large"
        autofocus
        @click="router.push({ name: 'job', params: { id: next.job.id } })"
      >
        Open the job
      </NButton>
    </section>
    <FirstStart v-else-if="bench.jobs" />
    <p v-else class="soft" role="status">Loading…</p>

    <section v-if="again.length" class="again" aria-label="To be asked again">
      <FollowUp v-for="view in again" :key="view.job.id" :view="view" named @done="bench.loadJobs()" />
    </section>
    <section aria-label="Rounds"><RoundsNow /></section>
    <p v-if="kits.length" class="kits">
      To take along:
      <RouterLink v-for="kit in kits" :key="kit.day" :to="{ name: 'kit', params: { day: kit.day } }"
        >{{ nearDayText(kit.day) }}, {{ kit.packed }} of {{ kit.all }} packed</RouterLink
      >
    </p>
    <NTable v-if="open.length" v-columns :bordered="false" class="list jobs">
      <thead>
        <tr>
          <th style="width: 28%">Unit</th>
          <th style="width: 22%">From and to</th>
          <th style="width: 34%">Blocked by</th>
          <th>Time</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="view in open" :key="view.job.id" class="leads">
          <td>
            <RouterLink :to="{ name: 'job', params: { id: view.job.id } }">{{ view.unit.name }}</RouterLink>
            <small>{{ view.unit.place }}, serial {{ view.unit.serial }}</small>
            <small v-if="view !== next && view.job.day !== next?.job.day">{{ dayText(view.job.day) }}</small>
          </td>
          <td>{{ versions(view) }}<small>{{ hops(view) }}</small></td>
          <td>
            <VerdictMark :verdict="view.headline.verdict" quiet />
            {{ verdictWords[view.headline.verdict] }}: {{ view.headline.says }}
            <small v-if="view.headline.verdict === 'note'">{{ view.headline.remedy }}</small>
            <WakeStrip
              v-if="view.runs[0]"
              :strip="logbookRow(view.runs[0].state).strip"
              :width="180"
              :label="`Last run of ${view.unit.name}`"
            />
          </td>
          <td v-if="view.plan.length">
            {{ durationText(view.whole.personMs) }} hands-on
            <small>{{ durationText(view.whole.aloneMs) }} unattended</small>
          </td>
          <td v-else class="soft">not known</td>
        </tr>
      </tbody>
    </NTable>
  </div>
</template>

<style scoped>
.next {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 24px;
  align-items: end;
  border-bottom: 1px solid var(--hair);
  padding-bottom: 24px;
}
.next h1 {
  margin: 4px 0 6px;
}
.lead {
  font-size: 18px;
}
.kits {
  margin-top: 14px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
}
.kits a {
  min-height: 24px;
}
.jobs {
  margin-top: 22px;
}
@media (max-width: 700px) {
  .next {
    grid-template-columns: 1fr;
  }
}
</style>
