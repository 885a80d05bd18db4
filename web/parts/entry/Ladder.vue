<script setup lang="ts">
import { diagnose, type CauseId, type KnownOfBench } from '@bench-wake/core/entry'
import { computed, ref } from 'vue'
import { written } from '../written'

/** Why it does not answer: causes by how likely they are, and the test to do next; each answer moves them. */
const { known, seen } = defineProps<{
  known: KnownOfBench
  /** What the program itself sees: answers nobody has to be asked for. */
  seen: Readonly<Record<string, string>>
}>()
const emit = defineEmits<{ again: []; found: [cause: CauseId] }>()
const told = ref(false)
const confirm = () => {
  told.value = true
  emit('found', top.value[0]!.id)
}

const given = ref<{ check: string; answer: string }[]>([])
const answers = computed(() => ({
  ...seen,
  ...Object.fromEntries(given.value.map(({ check, answer }) => [check, answer])),
}))
const diagnosis = computed(() => diagnose(known, answers.value))
const top = computed(() => diagnosis.value.ranked.slice(0, 5))
const next = computed(() => diagnosis.value.next)
const risks = ['harms nothing', 'switches the unit’s power', 'opens something']
const answer = (id: string) => (given.value = [...given.value, { check: next.value!.id, answer: id }])
const back = () => (given.value = given.value.slice(0, -1))
</script>

<template>
  <section
    class="ladder grid gap-10 grid-cols-[minmax(0,1fr)_minmax(280px,440px)] narrow:gap-5 narrow:grid-cols-1"
    aria-label="Why it does not answer"
  >
    <div>
      <template v-if="next">
        <p class="where mb-1.5 small soft">
          Question {{ given.length + 1 }}, about {{ next.seconds }} s, {{ risks[next.risk] }}
        </p>
        <h2 class="say text-title leading-[1.15] narrow:text-large" aria-live="polite">{{ next.asks }}</h2>
        <div class="answers grid my-4.5 gap-2.5">
          <button
            v-for="(choice, index) in next.answers"
            :key="choice.id"
            class="py-2 px-4.5 font-inherit text-large text-left text-inherit bg-sheet min-h-15 cursor-pointer frame-edge rounded"
            type="button"
            :data-primary="index === 0 || undefined"
            @click="answer(choice.id)"
          >
            {{ written(choice.says) }}
          </button>
        </div>
      </template>
      <template v-else>
        <p class="where mb-1.5 small soft">
          {{ diagnosis.found ? 'It stands out' : 'Nothing is left to ask' }}
        </p>
        <h2 class="say text-title leading-[1.15] narrow:text-large" data-found>
          {{ written(top[0]?.says) }}
        </h2>
        <p class="lead my-2.5 text-lead">{{ written(top[0]?.do) }}</p>
        <p v-if="top[0]">
          <button
            v-if="!told"
            type="button"
            class="mt-1.5 mb-2.5 mx-0 py-0 px-5 font-inherit font-650 text-brass-ink bg-brass bare-border rounded min-h-12 cursor-pointer"
            data-primary
            @click="confirm"
          >
            That was it
          </button>
          <span v-else role="status">Noted: the next ladder at this bench starts from it.</span>
        </p>
        <p v-if="!diagnosis.found && top[1]" class="soft">
          If not that: {{ written(top[1].says) }} {{ written(top[1].do) }}
        </p>
      </template>
      <p class="acts gap-5">
        <button v-if="given.length" type="button" class="textlike" @click="back">
          Take the last answer back
        </button>
        <button type="button" class="textlike" @click="emit('again')">Back to the coach</button>
      </p>
    </div>
    <ol class="plain" aria-label="Causes, likeliest first">
      <li
        v-for="cause in top"
        :key="cause.id"
        class="grid py-2.5 gap-3 grid-cols-[56px_1fr] line-b"
        :data-cause="cause.id"
      >
        <span class="mono text-lead text-right">{{ Math.round(cause.share * 100) }} %</span>
        <span>
          <b class="font-600">{{ written(cause.says) }}</b>
          <span class="block mt-1.25 mb-0.75 h-1.5 bg-water" aria-hidden="true"
            ><i class="block h-full bg-hull" :style="{ width: `${cause.share * 100}%` }"
          /></span>
          <small v-if="cause.because.length" class="soft small"
            >{{ written(cause.because.join('; ')) }}.</small
          >
        </span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.answers button:hover {
  border-color: var(--brass);
}
</style>
