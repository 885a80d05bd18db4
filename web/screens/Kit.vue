<script setup lang="ts">
import type { KitEntry } from '@bench-wake/core/ready'
import { NButton } from 'naive-ui'
import { computed, onMounted, shallowRef } from 'vue'
import { useRoute } from 'vue-router'
import KitTable from '../parts/KitTable.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { weekdayText } from '../parts/written'

/** What to take along on a day, for all its jobs, each thing once (PRACTICE C1). */
interface DayKit {
  day: string
  jobs: { id: string; unit: string; place: string }[]
  items: KitEntry[]
}
const day = String(useRoute().params['day'])
const list = shallowRef<DayKit | null>(null)
const { problem, ask, askInTurn } = useAsked()
onMounted(() => ask(async () => (list.value = await got<DayKit>(api.kit[':day'].$get({ param: { day } })))))
async function pack(item: KitEntry, packed: boolean): Promise<boolean> {
  await askInTurn(async () => {
    list.value = await got<DayKit>(api.kit[':day'].$put({ param: { day }, json: { item: item.id, packed } }))
  })
  return problem.value === null
}

const groups = {
  adapter: 'Adapters',
  cable: 'Cables',
  card: 'Laptop and cards',
  charger: 'Chargers',
  tool: 'Tools',
  protection: 'Protection',
  spare: 'Spares',
  papers: 'Documents',
} as const
const grouped = computed(() =>
  Object.entries(groups).flatMap(([kind, name]) => {
    const items = list.value?.items.filter((item) => item.kind === kind) ?? []
    return items.length ? [{ kind, name, items }] : []
  }),
)
const missing = computed(
  () => list.value?.items.filter(({ essential, packed }) => essential && !packed).length ?? 0,
)
const packed = computed(() => list.value?.items.filter((item) => item.packed).length ?? 0)
const dayName = weekdayText(day)
const print = () => window.print()
</script>

<template>
  <div class="page">
    <div class="head">
      <div class="flex-1 phone:flex-auto">
        <h1>To take along, {{ dayName }}</h1>
        <p v-if="list" class="soft">
          <template v-if="list.jobs.length">
            {{ packed }} of {{ list.items.length }} packed{{
              missing ? `, ${missing} essential things are missing` : ''
            }}. For
            <template v-for="(job, index) in list.jobs" :key="job.id"
              >{{ index ? '; ' : ''
              }}<RouterLink :to="{ name: 'job', params: { id: job.id } }"
                >{{ job.unit }}, {{ job.place }}</RouterLink
              ></template
            >.
          </template>
          <template v-else>No job is planned for this day.</template>
        </p>
      </div>
      <NButton v-if="list?.items.length" class="no-print" size="large" @click="print">Print the list</NButton>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!list" class="soft" role="status">Loading…</p>
    <section
      v-for="group in grouped"
      :key="group.kind"
      class="grid pt-3 pb-2.5 gap-5 line-t grid-cols-[180px_minmax(0,1fr)] phone:gap-0 phone:grid-cols-[1fr]"
      :aria-label="group.name"
    >
      <h2 class="pt-3">{{ group.name }}</h2>
      <KitTable :items="group.items" wants :pack="pack" />
    </section>
  </div>
</template>
