<script setup lang="ts">
import { exercisesOf, passMark, standingsOf, type Practice } from '@bench-wake/core/entry'
import { NButton } from 'naive-ui'
import { computed, onMounted, shallowRef } from 'vue'
import { useRoute } from 'vue-router'
import { familyOf } from '../parts/family-of'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { dayText } from '../parts/written'

/** A sheet that says what somebody has practised: no licence, and it says so. */
const name = String(useRoute().query['of'] ?? '')
const bench = useBench()
const practices = shallowRef<Practice[] | null>(null)
const { problem, ask } = useAsked()
onMounted(() =>
  ask(async () => {
    await bench.loadFamilies()
    practices.value = await got<Practice[]>(api.drills.$get())
  }),
)
const own = computed(() => (practices.value ?? []).filter(({ by }) => by === name))
const passed = computed(() =>
  standingsOf(
    exercisesOf((bench.families ?? []).map((each) => familyOf(each))),
    own.value,
    Date.now(),
  ).filter(({ best }) => (best ?? 0) >= passMark),
)
const print = () => window.print()
</script>

<template>
  <div class="page">
    <ProblemNote v-if="problem" :problem="problem" />
    <article v-else-if="practices" class="py-10 px-12 max-w-180 frame-ink">
      <svg width="52" height="36" viewBox="0 0 26 18" aria-hidden="true">
        <path d="M1 9h7M8 9 25 1M8 9l17 8" fill="none" stroke="var(--brass)" stroke-width="2" />
        <path d="M13 9h12" stroke="var(--ink)" stroke-width="2" />
      </svg>
      <p class="small soft">Certificate of practice</p>
      <h1 class="mt-1 mb-3">{{ name || 'Nobody named' }}</h1>
      <p>
        has practised on stand-ins, {{ own.length }} times until {{ dayText(Date.now()) }}, and passed
        {{ passed.length }} {{ passed.length === 1 ? 'exercise' : 'exercises' }}:
      </p>
      <ul class="pl-5">
        <li v-for="each in passed" :key="each.exercise.id" class="py-1">
          {{ each.exercise.name }}
          <span class="soft">{{ each.best }} of 100, {{ each.streak }} in a row</span>
        </li>
      </ul>
      <p class="small soft">
        It tells of practice with this program and replaces no licence. Local codes and licensed people come
        first.
      </p>
      <p class="no-print"><NButton size="large" @click="print">Print it</NButton></p>
    </article>
    <p v-else class="soft" role="status">Writing the sheet…</p>
  </div>
</template>
