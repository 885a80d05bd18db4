<script setup lang="ts">
import {
  beginDrill,
  drillOver,
  exercisesOf,
  faultDrillsOf,
  judgeMove,
  offText,
  passMark,
  scoreOf,
  standingsOf,
  type DrillState,
  type EntryState,
  type Practice,
} from '@bench-wake/core/entry'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { familyOf } from '../parts/family-of'
import Coach from '../parts/entry/Coach.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { cue } from '../stores/cue'
import { useLook } from '../stores/look'
import { written } from '../parts/written'

/** One exercise, worked to its end and judged. */
const id = String(useRoute().params['id'])
const bench = useBench()
const look = useLook()
const router = useRouter()
const practices = shallowRef<Practice[] | null>(null)
const { problem, ask } = useAsked()
const saving = useAsked()
onMounted(() =>
  ask(async () => {
    await bench.loadFamilies()
    practices.value = await got<Practice[]>(api.drills.$get())
    begin()
  }),
)
const families = computed(() => (bench.families ?? []).map((each) => familyOf(each)))
const exercise = computed(() => exercisesOf(families.value).find((each) => each.id === id))
const family = computed(() => families.value.find((each) => each.id === exercise.value?.familyId))
const way = computed(() => family.value?.entry.find((each) => each.id === exercise.value?.wayId))
const standing = computed(
  () =>
    standingsOf(
      exercise.value ? [exercise.value] : [],
      (practices.value ?? []).filter(({ by }) => by === look.name),
      Date.now(),
    )[0],
)

const startedAt = ref(0)
const round = ref(0)
const fault = ref<DrillState | null>(null)
/** The stand-in of a fault drill: what it said at the start and to each move. Without it the drill is told from its text. */
const stage = ref<{ id: string; told: string[] } | null>(null)
const answers = ref<Record<number, string[]>>({})
const setting = useAsked()
let staged: Promise<{ id: string; told: string[] } | undefined> = Promise.resolve(undefined)
const playing = useAsked()
const result = ref<{ score: number; says: string[]; passed: boolean } | null>(null)
const help = ref<Practice['help']>('full')
function begin() {
  round.value++
  result.value = null
  startedAt.value = performance.now()
  help.value = standing.value?.help ?? 'full'
  const drill = families.value.flatMap(faultDrillsOf).find((each) => `fault-${each.id}` === id)
  fault.value = drill ? beginDrill(drill) : null
  stage.value = null
  answers.value = {}
  if (!drill) return
  const mine = round.value
  staged = setting.askInTurn(async () => {
    const made = await got<{ id: string; told: string[] }>(
      api.drills.benches.$post({ json: { drillId: drill.id } }),
    )
    if (round.value === mine) stage.value = made
    return made
  })
}
/** Does the move on the stand-in, after those before it. */
function play(move: string, index: number) {
  const mine = round.value
  const setUp = staged
  void playing.askInTurn(async () => {
    const at = await setUp
    // Without its stand-in the drill is told from its text alone; why, stands beside it.
    if (!at) return
    const { told } = await got<{ told: string[] }>(
      api.drills.benches[':id'].moves.$post({ param: { id: at.id }, json: { move } }),
    )
    if (round.value === mine) answers.value = { ...answers.value, [index]: told }
  })
}

/** Time a practised person takes, ms: ten seconds an act or move, and what the windows ask (common practice). */
const usualMs = computed(() =>
  fault.value
    ? fault.value.drill.order.length * 12_000
    : (way.value?.script?.acts.reduce((sum, { within }) => sum + 3000 + (within?.minMs ?? 0), 6000) ??
      20_000),
)
function keep(unsafe: number, wrong: number, says: string[]) {
  const tookMs = performance.now() - startedAt.value
  const score = scoreOf({ unsafe, wrong, tookMs, usualMs: usualMs.value })
  result.value = { score, says, passed: score >= passMark }
  cue(score >= passMark ? 'done' : 'fail')
  void saving.ask(async () => {
    await got(
      api.drills.$post({
        json: {
          exerciseId: id,
          by: look.name || 'nobody named',
          help: help.value,
          unsafe,
          wrong,
          tookMs,
          score,
        },
      }),
    )
    practices.value = await got<Practice[]>(api.drills.$get())
  })
}
function entered(state: EntryState, misread: boolean) {
  const says: string[] = []
  if (state.outcome === 'in') says.push('It is in.')
  if (state.failure)
    says.push([offText(state.failure), state.failure.why, state.failure.do].filter(Boolean).join(': '))
  if (misread) says.push('The sign was read wrong at first.')
  // An entry that missed is no danger; it costs the right moves.
  keep(0, (state.outcome === 'in' ? 0 : 3) + (misread ? 1 : 0), says)
}

const moves = computed(() => {
  const list = fault.value?.drill.moves ?? []
  // Mixed, and the same for every try: the order of the list must not give the answer.
  return [...list].sort((a, b) => mixed(a.id) - mixed(b.id))
})
const mixed = (text: string) => [...text].reduce((sum, letter) => (sum * 31 + letter.charCodeAt(0)) % 9973, 7)
function choose(move: string) {
  const before = fault.value!
  fault.value = judgeMove(before, move)
  const lastChosen = fault.value.chosen.at(-1)
  if (lastChosen?.judged === 'unsafe') cue('fail')
  // What comes too soon is not done: the bench stays as it is.
  if (lastChosen && lastChosen.judged !== 'too-soon') play(move, fault.value.chosen.length - 1)
  if (!drillOver(fault.value)) return
  const count = (judged: string) => fault.value!.chosen.filter((each) => each.judged === judged).length
  const unsafe = count('unsafe')
  keep(unsafe, count('wrong') + count('too-soon'), [
    unsafe
      ? `${unsafe} ${unsafe === 1 ? 'move' : 'moves'} could have broken the unit or hurt somebody.`
      : 'Nothing unsafe was done.',
    `${fault.value.chosen.length} moves for ${fault.value.drill.order.length}.`,
  ])
}
const lastTold = computed(() => answers.value[(fault.value?.chosen.length ?? 0) - 1] ?? [])
const moveOf = (moveId: string) => fault.value?.drill.moves.find((each) => each.id === moveId)
const judgedWords = { right: 'Right', 'too-soon': 'Not yet', wrong: 'Leads nowhere', unsafe: 'Unsafe' }
</script>

<template>
  <div class="page">
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!practices" class="soft" role="status">Setting up the stand-in…</p>
    <p v-else-if="!exercise" class="soft">There is no such exercise.</p>
    <template v-else>
      <div class="head">
        <div>
          <h1>{{ exercise.name }}</h1>
          <p class="soft">A drill on a stand-in; no port is touched. {{ look.name }}</p>
        </div>
        <RouterLink :to="{ name: 'drill' }">Back to the list</RouterLink>
      </div>

      <section v-if="result" class="result" aria-label="Result">
        <p class="big text-far font-650 text-hold" :class="{ passed: result.passed }">
          {{ result.score }} <small class="text-lead font-400 soft">of 100</small>
        </p>
        <h2>{{ result.passed ? 'Passed.' : 'Not yet.' }}</h2>
        <p v-for="line in result.says" :key="line">{{ line }}</p>
        <p v-for="line in lastTold" :key="line" class="mono told pl-2 small soft wrap-anywhere">{{ line }}</p>
        <div class="acts mt-4.5 gap-3">
          <NButton type="primary" size="large" data-primary autofocus @click="begin">Once more</NButton>
          <NButton size="large" @click="router.push({ name: 'drill' })">To the list</NButton>
        </div>
        <ProblemNote v-if="saving.problem.value" :problem="saving.problem.value" />
      </section>
      <Coach
        v-else-if="way?.script"
        :key="round"
        :script="way.script"
        :panel="family?.panel"
        :tries="1"
        :help="help"
        drill
        @over="entered"
      />
      <section
        v-else-if="fault"
        class="grid gap-10 grid-cols-[minmax(0,1fr)_minmax(280px,420px)] narrow:grid-cols-1"
        aria-label="Fault drill"
      >
        <div>
          <p class="mb-4 text-large leading-[1.3]">{{ fault.drill.situation }}</p>
          <p v-if="!stage && setting.busy.value" class="soft" role="status">Setting up the stand-in…</p>
          <ProblemNote
            v-if="setting.problem.value ?? playing.problem.value"
            :problem="(setting.problem.value ?? playing.problem.value)!"
          />
          <p v-for="line in stage?.told ?? []" :key="line" class="mono told pl-2 small soft wrap-anywhere">
            {{ line }}
          </p>
          <h2>What do you do {{ fault.done.length ? 'next' : 'first' }}?</h2>
          <ul class="my-2.5 mx-0 p-0 list-none">
            <li v-for="each in moves" :key="each.id" class="mb-2.5">
              <button
                class="py-2 px-4 font-inherit text-lead text-inherit w-full text-left bg-sheet min-h-13.5 cursor-pointer frame-edge rounded"
                type="button"
                :disabled="fault.done.includes(each.id)"
                :data-move="each.id"
                @click="choose(each.id)"
              >
                {{ written(each.says) }}
              </button>
            </li>
          </ul>
        </div>
        <ol class="log my-2.5 mx-0 p-0 list-none" aria-label="What you did" aria-live="polite">
          <li
            v-for="(each, index) in fault.chosen"
            :key="index"
            class="py-2 line-b"
            :data-judged="each.judged"
          >
            <b>{{ judgedWords[each.judged] }}.</b> {{ written(moveOf(each.move)?.says) }}
            <small class="block small soft">{{
              each.judged === 'too-soon'
                ? 'It is right, and something comes before it.'
                : moveOf(each.move)?.then
            }}</small>
            <small
              v-for="line in answers[index] ?? []"
              :key="line"
              class="mono told block pl-2 small soft wrap-anywhere"
              >{{ line }}</small
            >
          </li>
        </ol>
      </section>
    </template>
  </div>
</template>

<style scoped>
.result {
  border-top: 1px solid var(--hair);
  padding-top: 16px;
  font-size: 18px;
}
.big.passed {
  color: var(--go);
}
.told + h2 {
  margin-top: 16px;
}
.told {
  border-left: 2px solid var(--hair);
}
ul button:hover:not(:disabled) {
  border-color: var(--brass);
}
ul button:disabled {
  color: var(--soft);
  border-style: dashed;
  cursor: default;
}
[data-judged='unsafe'] b {
  color: var(--stop);
}
[data-judged='wrong'] b,
[data-judged='too-soon'] b {
  color: var(--hold);
}
[data-judged='right'] b {
  color: var(--go);
}
</style>
