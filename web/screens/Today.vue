<script setup lang="ts">
import { dayAt } from '@bench-wake/core/kernel'
import { askAgainOn } from '@bench-wake/core/job'
import { taskText } from '@bench-wake/core/run'
import { logbookRow } from '@bench-wake/core/record'
import { versionsText } from '@bench-wake/core/unit'
import type { JobView } from '@bench-wake/server'
import { NButton, NCheckbox, NTable } from 'naive-ui'
import { computed, defineAsyncComponent, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import FirstStart from '../parts/FirstStart.vue'
import FollowUp from '../parts/job/FollowUp.vue'
import RoundsNow from '../parts/rounds/RoundsNow.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { useTurns } from '../parts/useTurns'
import VerdictMark from '../parts/VerdictMark.vue'
import WakeStrip from '../parts/WakeStrip.vue'
import { verdictWords } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useLook } from '../stores/look'
import { dayText, durationText, nearDayText, written } from '../parts/written'

/** A chooser of days is not on the way to the first look. */
const MoveJobs = defineAsyncComponent(() => import('../parts/job/MoveJobs.vue'))
const bench = useBench()
const router = useRouter()
const { problem, ask } = useAsked()
onMounted(() => ask(() => bench.loadJobs()))

const weight = { note: 0, go: 1, hold: 2, stop: 3, unknown: 4 }
const open = computed(() =>
  (bench.jobs ?? [])
    .filter(({ job }) => job.closedAt === null)
    .sort(
      (a, b) =>
        (a.job.day < b.job.day ? -1 : Number(a.job.day > b.job.day)) ||
        weight[a.headline.verdict] - weight[b.headline.verdict],
    ),
)
/** Closed jobs whose symptom is due to be asked after again. */
const today = dayAt(Date.now())
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

/** Open jobs by day and place, in the order of the first of each. */
const groups = computed(() => {
  const found = new Map<string, JobView[]>()
  for (const view of open.value) {
    const title = `${nearDayText(view.job.day)}, ${view.unit.place}`
    found.set(title, [...(found.get(title) ?? []), view])
  }
  return [...found]
})
/** The word on what is next comes first, then what stands beside it, then group by group. */
const beside = 1
const drawn = useTurns(() => (bench.jobs ? beside + groups.value.length : 0))

const chosen = ref<string[]>([])
const chosenJobs = computed(() => open.value.filter(({ job }) => chosen.value.includes(job.id)))
const moving = useAsked()
const look = useLook()
/** Jobs that were moved a moment ago, each with the day it had. */
const moved = ref<{ id: string; day: string }[]>([])
const toDay = (id: string, to: string, by: string) =>
  got(api.jobs[':id'].$patch({ param: { id }, json: { day: { to, by } } }))
const move = (day: string, by: string) =>
  moving.ask(async () => {
    moved.value = []
    try {
      for (const { job } of chosenJobs.value) {
        await toDay(job.id, day, by)
        moved.value.push({ id: job.id, day: job.day })
      }
      chosen.value = []
    } finally {
      await bench.loadJobs()
    }
  })
/** What could not be moved back can be tried again. */
const moveBack = () =>
  moving.ask(async () => {
    try {
      for (const { id, day } of [...moved.value]) {
        await toDay(id, day, look.name)
        moved.value = moved.value.filter((each) => each.id !== id)
      }
    } finally {
      await bench.loadJobs()
    }
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
    <section
      v-else-if="next"
      class="grid pb-6 gap-6 grid-cols-[1fr_auto] items-end line-b phone:grid-cols-[1fr]"
    >
      <div>
        <p class="small soft">Next, {{ next.unit.place }}, {{ dayText(next.job.day) }}</p>
        <h1 class="mt-1 mb-1.5">
          {{ next.unit.name }}: {{ written(next.headline.says.replace(/\.$/, '')) }}
        </h1>
        <p class="lead text-lead">{{ written(next.headline.remedy ?? next.job.reason) }}</p>
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

    <section v-if="again.length && drawn >= beside" class="again" aria-label="To be asked again">
      <FollowUp v-for="view in again" :key="view.job.id" :view="view" named @done="bench.loadJobs()" />
    </section>
    <section v-if="drawn >= beside || problem" aria-label="Rounds"><RoundsNow /></section>
    <p v-if="kits.length" class="flex mt-3.5 gap-y-1 gap-x-5.5 flex-wrap">
      To take along:
      <RouterLink
        v-for="kit in kits"
        :key="kit.day"
        class="min-h-6"
        :to="{ name: 'kit', params: { day: kit.day } }"
        >{{ nearDayText(kit.day) }}, {{ kit.packed }} of {{ kit.all }} packed</RouterLink
      >
    </p>
    <MoveJobs
      v-if="chosenJobs.length"
      :count="chosenJobs.length"
      :busy="moving.busy.value"
      @none="chosen = []"
      @move="move"
    />
    <NTable v-if="open.length && drawn > beside" v-columns :bordered="false" class="list mt-3">
      <thead>
        <tr>
          <th style="width: 34px"><span class="visually-hidden">Chosen</span></th>
          <th style="width: 26%">Unit</th>
          <th style="width: 22%">From and to</th>
          <th style="width: 34%">Blocked by</th>
          <th>Time</th>
        </tr>
      </thead>
      <tbody v-for="[title, jobs] in groups.slice(0, drawn - beside)" :key="title">
        <tr class="heading">
          <th class="text-ink font-650 text-body" colspan="5" scope="rowgroup">{{ title }}</th>
        </tr>
        <tr v-for="view in jobs" :key="view.job.id" class="leads">
          <td class="tick">
            <NCheckbox
              :checked="chosen.includes(view.job.id)"
              :aria-label="`Choose ${view.unit.name}`"
              @update:checked="
                chosen = $event ? [...chosen, view.job.id] : chosen.filter((id) => id !== view.job.id)
              "
            />
          </td>
          <td data-first>
            <RouterLink :to="{ name: 'job', params: { id: view.job.id } }">{{ view.unit.name }}</RouterLink>
            <small>serial {{ view.unit.serial }}</small>
          </td>
          <td>{{ versions(view) }}<small>{{ hops(view) }}</small></td>
          <td>
            <VerdictMark :verdict="view.headline.verdict" quiet />
            {{ verdictWords[view.headline.verdict] }}: {{ written(view.headline.says) }}
            <small v-if="view.headline.verdict === 'note'">{{ written(view.headline.remedy) }}</small>
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
    <NButton v-if="bench.moreJobs" class="mt-4" @click="ask(() => bench.loadMoreJobs())"
      >Show more jobs</NButton
    >
    <ProblemNote v-if="moving.problem.value" :problem="moving.problem.value" />
    <p v-if="moved.length" class="mt-2" role="status">
      {{ moved.length === 1 ? 'One job is' : `${moved.length} jobs are` }} moved.
      <NButton :loading="moving.busy.value" @click="moveBack">Undo</NButton>
    </p>
  </div>
</template>
