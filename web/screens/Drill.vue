<script setup lang="ts">
import { exercisesOf, passMark, standingsOf, type Practice } from '@bench-wake/core/entry'
import { NButton, NInput, NSelect, NTable } from 'naive-ui'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { familyOf } from '../parts/family-of'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useLook } from '../stores/look'
import { useTurns } from '../parts/useTurns'
import { dayText } from '../parts/written'

/** Practice on units that cannot die (PRACTICE L2). Nothing here touches a port. */
const bench = useBench()
const look = useLook()
const route = useRoute()
const router = useRouter()
const practices = shallowRef<Practice[] | null>(null)
const name = ref(look.name)
const { problem, ask } = useAsked()
onMounted(() =>
  ask(async () => {
    await bench.loadFamilies()
    practices.value = await got<Practice[]>(api.drills.$get())
  }),
)
const families = computed(() => (bench.families ?? []).map((each) => familyOf(each)))
const own = computed(() => (practices.value ?? []).filter(({ by }) => by === name.value.trim()))
/** The kind of equipment that is looked at; kept in the address, so that the way back leads to it. */
const of = computed(() => families.value.find(({ id }) => id === route.query['of']))
const show = (id: string | null) => router.replace({ query: id ? { of: id } : {} })
const kinds = computed(() => families.value.map(({ id, name }) => ({ value: id, label: name })))
const standings = computed(() =>
  standingsOf(exercisesOf(of.value ? [of.value] : families.value), own.value, Date.now()),
)
const drawn = useTurns(() => standings.value.length, 4)
const next = computed(() => standings.value[0])
const helpWords = { full: 'with all help', window: 'with the window only', none: 'by heart' }
const open = (id: string) => {
  look.name = name.value.trim()
  void router.push({ name: 'practice', params: { id } })
}
const passed = computed(() => standings.value.filter(({ best }) => (best ?? 0) >= passMark).length)
const dueText = (at: number) => (at <= Date.now() ? 'due now' : `due ${dayText(at)}`)
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Drill</h1>
        <p class="soft">
          Practise on stand-ins: they cannot die, and no port is touched. Safety counts first, then the right
          moves, then time.
        </p>
      </div>
      <div class="flex gap-3 flex-wrap">
        <label class="field w-60"
          >Who practises
          <NInput
            v-model:value="name"
            placeholder="Your name"
            :input-props="{ 'aria-label': 'Who practises' }"
        /></label>
        <label class="field w-60"
          >Equipment
          <NSelect
            :value="of?.id ?? null"
            :options="kinds"
            filterable
            clearable
            placeholder="All of it"
            :input-props="{ 'aria-label': 'Equipment' }"
            @update:value="show"
        /></label>
      </div>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!practices" class="soft" role="status">Loading…</p>
    <template v-else>
      <section
        v-if="next"
        class="grid mb-4 py-4 gap-5 grid-cols-[1fr_auto] items-end line-t line-b phone:grid-cols-[1fr]"
      >
        <div>
          <p class="small soft">Next, {{ helpWords[next.help] }}</p>
          <h2 class="text-large">{{ next.exercise.name }}</h2>
          <p class="soft">{{ passed }} of {{ standings.length }} passed.</p>
        </div>
        <NButton type="primary" size="large" :disabled="!name.trim()" @click="open(next.exercise.id)"
          >Practise it</NButton
        >
      </section>
      <p v-if="!name.trim()" class="soft">Say who practises, so that your record is kept.</p>
      <p v-if="standings.length === 0" class="soft">
        {{
          of
            ? `Nothing to practise on a ${of.name} yet: its profile has no timed entry and no link that this program drives.`
            : 'Nothing to practise yet. Drills are made from profiles: add a kind of equipment under Families, with an entry or a link.'
        }}
      </p>
      <NTable v-else v-columns :bordered="false" class="list">
        <thead>
          <tr>
            <th>Exercise</th>
            <th>Best</th>
            <th>In a row</th>
            <th>Next</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="each in standings.slice(0, drawn)"
            :key="each.exercise.id"
            :data-exercise="each.exercise.id"
          >
            <td>
              {{ each.exercise.name }}
              <small>{{
                each.exercise.kind === 'fault' ? 'a fault, move by move' : helpWords[each.help]
              }}</small>
            </td>
            <td>
              {{ each.best === null ? 'not yet' : `${each.best} of 100` }}
            </td>
            <td>{{ each.streak }}</td>
            <td>{{ dueText(each.dueAt) }}</td>
            <td>
              <NButton :disabled="!name.trim()" @click="open(each.exercise.id)">Practise</NButton>
            </td>
          </tr>
        </tbody>
      </NTable>
      <p v-if="passed">
        <RouterLink
          class="inline-block mt-2.5 min-h-11 leading-11"
          :to="{ name: 'certificate', query: { of: name.trim() } }"
          >Certificate of practice, for print</RouterLink
        >
      </p>
    </template>
  </div>
</template>
