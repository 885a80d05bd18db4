<script setup lang="ts">
import { exercisesOf, passMark, standingsOf, type Practice } from '@bench-wake/core/entry'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { familyOf } from '../parts/family-of'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { dayText } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'

/** A sheet that says what somebody has practised: no licence, and it says so. */
const name = String(useRoute().query['of'] ?? '')
const bench = useBench()
const practices = ref<Practice[] | null>(null)
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
    <article v-else-if="practices" class="sheet">
      <svg width="52" height="36" viewBox="0 0 26 18" aria-hidden="true">
        <path d="M1 9h7M8 9 25 1M8 9l17 8" fill="none" stroke="var(--brass)" stroke-width="2" />
        <path d="M13 9h12" stroke="var(--ink)" stroke-width="2" />
      </svg>
      <p class="small soft">Certificate of practice</p>
      <h1>{{ name || 'Nobody named' }}</h1>
      <p>
        has practised on stand-ins, {{ own.length }} times until {{ dayText(Date.now()) }}, and passed
        {{ passed.length }} {{ passed.length === 1 ? 'exercise' : 'exercises' }}:
      </p>
      <ul>
        <li v-for="each in passed" :key="each.exercise.id">
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

<style scoped>
.sheet {
  max-width: 720px;
  border: 1.5px solid var(--ink);
  padding: 40px 48px;
}
h1 {
  margin: 4px 0 12px;
}
ul {
  padding-left: 20px;
}
li {
  padding: 4px 0;
}
</style>
