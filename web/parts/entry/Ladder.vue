<script setup lang="ts">
import { diagnose, type CauseId, type KnownOfBench } from '@bench-wake/core/entry'
import { computed, ref } from 'vue'

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
  <section class="ladder" aria-label="Why it does not answer">
    <div>
      <template v-if="next">
        <p class="where">
          Question {{ given.length + 1 }}, about {{ next.seconds }} s, {{ risks[next.risk] }}
        </p>
        <h2 class="say" aria-live="polite">{{ next.asks }}</h2>
        <div class="answers">
          <button
            v-for="(choice, index) in next.answers"
            :key="choice.id"
            type="button"
            :data-primary="index === 0 || undefined"
            @click="answer(choice.id)"
          >
            {{ choice.says }}
          </button>
        </div>
      </template>
      <template v-else>
        <p class="where">{{ diagnosis.found ? 'It stands out' : 'Nothing is left to ask' }}</p>
        <h2 class="say" data-found>{{ top[0]?.says }}</h2>
        <p class="lead">{{ top[0]?.do }}</p>
        <p v-if="top[0]">
          <button v-if="!told" type="button" class="tell" data-primary @click="confirm">That was it</button>
          <span v-else role="status">Noted: the next ladder at this bench starts from it.</span>
        </p>
        <p v-if="!diagnosis.found && top[1]" class="soft">If not that: {{ top[1].says }} {{ top[1].do }}</p>
      </template>
      <p class="acts">
        <button v-if="given.length" type="button" class="textlike" @click="back">
          Take the last answer back
        </button>
        <button type="button" class="textlike" @click="emit('again')">Back to the coach</button>
      </p>
    </div>
    <ol class="causes" aria-label="Causes, likeliest first">
      <li v-for="cause in top" :key="cause.id" :data-cause="cause.id">
        <span class="share mono">{{ Math.round(cause.share * 100) }} %</span>
        <span>
          <b>{{ cause.says }}</b>
          <span class="bar" aria-hidden="true"><i :style="{ width: `${cause.share * 100}%` }" /></span>
          <small v-if="cause.because.length" class="soft">{{ cause.because.join('; ') }}.</small>
        </span>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.ladder {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(280px, 440px);
  gap: 40px;
}
.where {
  font-size: 13px;
  color: var(--soft);
  margin-bottom: 6px;
}
.say {
  font-size: 34px;
  line-height: 1.15;
}
.lead {
  font-size: 18px;
  margin: 10px 0;
}
.answers {
  display: grid;
  gap: 10px;
  margin: 18px 0;
}
.answers button {
  font: inherit;
  font-size: 24px;
  text-align: left;
  color: inherit;
  background: var(--sheet);
  border: 1.5px solid var(--edge);
  border-radius: 3px;
  min-height: 60px;
  padding: 8px 18px;
  cursor: pointer;
}
.answers button:hover {
  border-color: var(--brass);
}
.tell {
  font: inherit;
  font-weight: 650;
  color: var(--brass-ink);
  background: var(--brass);
  border: 0;
  border-radius: 3px;
  min-height: 48px;
  padding: 0 20px;
  margin: 6px 0 10px;
  cursor: pointer;
}
.acts {
  display: flex;
  gap: 20px;
}
.causes {
  list-style: none;
  margin: 0;
  padding: 0;
}
.causes li {
  display: grid;
  grid-template-columns: 56px 1fr;
  gap: 12px;
  padding: 10px 0;
  border-bottom: 1px solid var(--hair);
}
.share {
  font-size: 18px;
  text-align: right;
}
.causes b {
  font-weight: 600;
}
.bar {
  display: block;
  height: 6px;
  margin: 5px 0 3px;
  background: var(--water);
}
.bar i {
  display: block;
  height: 100%;
  background: var(--hull);
}
small {
  font-size: 13px;
}
@media (max-width: 900px) {
  .ladder {
    grid-template-columns: minmax(0, 1fr);
    gap: 20px;
  }
  .say {
    font-size: 24px;
  }
}
</style>
