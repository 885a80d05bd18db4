<script setup lang="ts">
import type { KitEntry } from '@bench-wake/core/ready'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import KitTable from '../parts/KitTable.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'

/** What to take along on a day, for all its jobs, each thing once (PRACTICE C1). */
interface DayKit {
  day: string
  jobs: { id: string; unit: string; place: string }[]
  items: KitEntry[]
}
const day = String(useRoute().params['day'])
const list = ref<DayKit | null>(null)
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
const dayName = new Date(`${day}T12:00:00`).toLocaleDateString('en-GB', {
  weekday: 'long',
  day: 'numeric',
  month: 'long',
})
const print = () => window.print()
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
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
    <section v-for="group in grouped" :key="group.kind" :aria-label="group.name">
      <h2>{{ group.name }}</h2>
      <KitTable :items="group.items" wants :pack="pack" />
    </section>
  </div>
</template>

<style scoped>
.head > div {
  flex: 1;
}
section {
  border-top: 1px solid var(--hair);
  padding: 12px 0 10px;
  display: grid;
  grid-template-columns: 180px minmax(0, 1fr);
  gap: 20px;
}
h2 {
  padding-top: 12px;
}
@media (max-width: 700px) {
  .head > div {
    flex: auto;
  }
  section {
    grid-template-columns: 1fr;
    gap: 0;
  }
}
</style>
