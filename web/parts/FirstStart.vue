<script setup lang="ts">
import { NButton } from 'naive-ui'
import { computed, onMounted } from 'vue'
import { useRouter, type RouteLocationRaw } from 'vue-router'
import { useBench } from '../stores/bench'
import ProblemNote from './ProblemNote.vue'
import { useAsked } from './useAsked'
import VerdictMark from './VerdictMark.vue'

/** What leads to the first job, in its order: each done or not, the first that is not as the next act. */
const bench = useBench()
const router = useRouter()
const { problem, ask } = useAsked()
onMounted(() => ask(() => Promise.all([bench.loadFamilies(), bench.loadUnits(), bench.loadImages()])))

interface Step {
  does: string
  says: string
  done: boolean
  act: string
  to: RouteLocationRaw
}
const steps = computed<Step[] | null>(() => {
  const { families, units, images } = bench
  if (!families || !units || !images) return null
  return [
    {
      does: 'Bring your equipment',
      says: 'Teach its kind from its manual, about a dozen answers, or take over a profile that you were given.',
      done: families.length > 0,
      act: 'Teach a new kind',
      to: { name: 'teach' },
    },
    {
      does: 'Add a unit of it',
      says: 'Its name, its place and its serial number; what it says of itself is read from it, or typed.',
      done: units.length > 0,
      act: 'Add a unit',
      to: { name: 'units', query: { add: 'yes' } },
    },
    {
      does: 'Bring an image',
      says: 'Drop the file onto the shelf as it came. What is in it, and whether it fits, is said there.',
      done: images.length > 0,
      act: 'To the shelf',
      to: { name: 'shelf' },
    },
    {
      does: 'Make a job',
      says: 'On the unit’s page. The job checks the bench, leads into the bootloader, writes, proves and keeps the record.',
      done: false,
      act: 'To the units',
      to: { name: 'units' },
    },
  ]
})
const next = computed(() => steps.value?.find(({ done }) => !done))
const isNew = computed(() => steps.value?.every(({ done }) => !done) ?? false)
</script>

<template>
  <ProblemNote v-if="problem" :problem="problem" />
  <section v-if="steps && next" aria-labelledby="first-start">
    <h1 id="first-start">{{ isNew ? 'Nothing is here yet' : 'No job is open' }}</h1>
    <p v-if="isNew" class="lead">
      Bench Wake writes firmware into units that somebody depends on, and does not let you begin what cannot
      end well. Four steps to the first job:
    </p>
    <ol class="p-0 list-none max-w-205">
      <li
        v-for="step in steps"
        :key="step.does"
        class="grid py-3.5 gap-y-1 gap-x-3.5 grid-cols-[auto_1fr_auto] items-start line-t phone:grid-cols-[auto_1fr]"
        :aria-current="step === next ? 'step' : undefined"
      >
        <VerdictMark :verdict="step.done ? 'go' : step === next ? 'open' : 'unknown'" quiet />
        <div>
          <strong>{{ step.does }}</strong><span v-if="step.done" class="visually-hidden">, done</span>
          <p class="soft mt-0.5">{{ step.says }}</p>
        </div>
        <NButton
          v-if="!step.done"
          :type="step === next ? 'primary' : 'default'"
          @click="router.push(step.to)"
          >{{ step.act }}</NButton
        >
      </li>
    </ol>
    <p class="small soft">
      <RouterLink :to="{ name: 'families' }">Family profiles</RouterLink> takes a profile from a file. To look
      at everything first, end the program and start <code>npm run demo</code>: a harbour’s workshop with
      stand-ins, where nothing real is written.
    </p>
  </section>
  <p v-else-if="!problem" class="soft" role="status">Loading…</p>
</template>

<style scoped>
@media (max-width: 700px) {
  li > :last-child:not(div) {
    grid-column: 2;
    justify-self: start;
  }
}
</style>
