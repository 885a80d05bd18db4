<script setup lang="ts">
import { inSentence } from '@bench-wake/core/kernel'
import type { CaseAnswer, RoundChanges, RoundMap, ShelfImage } from '@bench-wake/server'
import { NButton, NInput, NSkeleton } from 'naive-ui'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import FindingList from '../parts/FindingList.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import CaseForm from '../parts/rounds/CaseForm.vue'
import CaseNextStep from '../parts/rounds/CaseNextStep.vue'
import FigureMap from '../parts/rounds/FigureMap.vue'
import ImageTables from '../parts/rounds/ImageTables.vue'
import RoundLogs from '../parts/rounds/RoundLogs.vue'
import RoundStrip from '../parts/rounds/RoundStrip.vue'
import TableChange from '../parts/rounds/TableChange.vue'
import { figureText, outcomeWords, waitedText } from '../parts/rounds/words'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useLook } from '../stores/look'
import { dayText, whenText, written } from '../parts/written'

/** One case: where the rounds are going, what is next, and everything of the round one looks at. */
const id = String(useRoute().params['id'])
const router = useRouter()
const look = useLook()
const view = shallowRef<CaseAnswer | null>(null)
const image = shallowRef<ShelfImage | null>(null)
const changes = shallowRef<RoundChanges | null>(null)
const map = shallowRef<RoundMap | null>(null)
const chosen = ref<number | null>(null)
const loading = useAsked()
const looking = useAsked()
const telling = useAsked()

const load = async () => {
  const fresh = await got<CaseAnswer>(api.cases[':id'].$get({ param: { id } }))
  const grown = fresh.state.rounds.length > (view.value?.state.rounds.length ?? 0)
  view.value = fresh
  if (grown || chosen.value === null) chosen.value = fresh.state.rounds.length || null
}
onMounted(() => loading.ask(load))

const agreement = computed(() => view.value?.state.agreement ?? null)
const round = computed(() => view.value?.state.rounds[(chosen.value ?? 0) - 1] ?? null)
const strip = computed(() =>
  (view.value?.state.rounds ?? []).map(({ number, state, waitedMs }) => ({
    number,
    state,
    waitedMs,
    rms: view.value!.errors.find((each) => each.round === number)?.rms ?? null,
  })),
)
const error = computed(() => view.value?.errors.find((each) => each.round === chosen.value) ?? null)

/** What belongs to the round one looks at; a case may hold forty. */
watch([round, () => view.value?.logs.length], () =>
  looking.askInTurn(async () => {
    image.value = null
    changes.value = null
    map.value = null
    if (!round.value) return
    const param = { id, round: String(round.value.number) }
    const [shelf, changed, errors] = await Promise.all([
      got<ShelfImage>(api.images[':id'].$get({ param: { id: round.value.imageId } })),
      got<RoundChanges | null>(api.cases[':id'].rounds[':round'].changes.$get({ param })),
      got<RoundMap | null>(api.cases[':id'].rounds[':round'].map.$get({ param })),
    ])
    image.value = shelf
    changes.value = changed
    map.value = errors
  }),
)

const says = ref('')
const tellChange = () =>
  telling.ask(async () => {
    await got(
      api.cases[':id']['machine-changes'].$post({
        param: { id },
        json: { says: says.value.trim(), by: look.name || 'Somebody' },
      }),
    )
    says.value = ''
    await load()
  })
const editing = ref(false)
const saved = async () => {
  editing.value = false
  await loading.ask(load)
}
const reopening = useAsked()
const reopenWhy = ref('')
const reopen = () =>
  reopening.ask(async () => {
    await got(
      api.cases[':id'].reopen.$post({
        param: { id },
        json: { by: look.name || 'Somebody', why: reopenWhy.value.trim() },
      }),
    )
    await load()
  }, 'The case is open again.')
</script>

<template>
  <div class="page">
    <p class="small soft"><RouterLink :to="{ name: 'rounds' }">Rounds</RouterLink></p>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <NSkeleton v-if="!view && !loading.problem.value" text :repeat="8" role="status" aria-label="Loading…" />
    <template v-if="view && agreement">
      <div class="head">
        <div>
          <h1>{{ agreement.title }}</h1>
          <p class="soft">
            <RouterLink :to="{ name: 'unit', params: { id: view.unit.id } }">{{ view.unit.name }}</RouterLink
            >. {{ agreement.goal }} With {{ inSentence(agreement.calibrator) }} since
            {{ dayText(view.state.openedAt) }}.
          </p>
        </div>
        <NButton v-if="!view.state.closed && !editing" @click="editing = true"
          >Change what was agreed</NButton
        >
      </div>
      <CaseForm
        v-if="editing"
        :view="view"
        :unit-id="view.unit.id"
        @cancel="editing = false"
        @saved="saved"
      />
      <template v-else>
        <div v-if="view.state.closed" class="pt-2 pb-3 px-4 bar-go">
          <p class="text-large">Closed: {{ outcomeWords[view.state.closed.outcome] }}.</p>
          <p class="soft">
            {{ written(view.state.closed.says) }} {{ view.state.closed.by }},
            {{ whenText(view.state.closed.at) }}.
          </p>
          <ProblemNote v-if="reopening.problem.value" :problem="reopening.problem.value" />
          <form class="flex mt-4.5 gap-2.5 max-w-160" @submit.prevent="reopen">
            <NInput
              v-model:value="reopenWhy"
              placeholder="Why it is opened again"
              :input-props="{ 'aria-label': 'Why it is opened again' }"
              :maxlength="1000"
            />
            <NButton attr-type="submit" :loading="reopening.busy.value" :disabled="!reopenWhy.trim()"
              >Open again</NButton
            >
          </form>
        </div>
        <CaseNextStep
          v-else
          :view="view"
          @changed="loading.ask(load)"
          @job="(jobId: string) => router.push({ name: 'job', params: { id: jobId } })"
        />
        <FindingList v-if="view.convergence.length > 0" :findings="view.convergence" />

        <section v-if="strip.length > 0" aria-label="The rounds so far" class="mt-5.5 pt-4 line-t">
          <h2>Rounds</h2>
          <p v-if="agreement.aim" class="small soft">
            Column: error of {{ agreement.aim.channel.toLowerCase() }} over the map; dashed: good enough,
            {{ agreement.aim.within }} {{ agreement.aim.unit }}.
          </p>
          <RoundStrip
            v-model:chosen="chosen"
            :rounds="strip"
            :within="agreement.aim?.within ?? null"
            :unit="agreement.aim?.unit ?? ''"
          />
        </section>

        <section v-if="round" :aria-label="`Round ${round.number}`" class="mt-5.5 pt-4 line-t">
          <h2>Round {{ round.number }}</h2>
          <p v-if="round.remarks" class="mt-1.5 mb-2.5 text-lead">“{{ round.remarks }}”</p>
          <dl class="facts mt-0 mb-2.5 mx-0">
            <div>
              <dt class="soft">Image</dt>
              <dd class="m-0">
                <RouterLink v-if="image" :to="{ name: 'image', params: { id: image.id } }" class="mono">{{
                  image.name
                }}</RouterLink
                ><template v-if="image?.identity?.version">, version {{ image.identity.version }}</template>
              </dd>
            </div>
            <div>
              <dt class="soft">Came</dt>
              <dd class="m-0">{{ whenText(round.receivedAt) }}</dd>
            </div>
            <div v-if="round.jobId">
              <dt class="soft">Write</dt>
              <dd class="m-0">
                <RouterLink :to="{ name: 'job', params: { id: round.jobId } }">{{
                  round.written ? 'written and proved' : 'job is open'
                }}</RouterLink>
              </dd>
            </div>
            <div v-if="round.sent">
              <dt class="soft">Sent</dt>
              <dd class="m-0">
                {{ whenText(round.sent.at) }},
                <a :href="`/api/cases/${view.id}/packages/${round.sent.sha256}`">package</a
                >{{ round.waitedMs > 0 ? `, ${waitedText(round.waitedMs)} to the answer` : '' }}
              </dd>
            </div>
            <div v-if="error">
              <dt class="soft">Error</dt>
              <dd class="m-0">
                {{ figureText(error.rms) }} {{ agreement.aim?.unit }}, worst cell
                {{ figureText(error.worst) }}; spreads by {{ figureText(error.spread) }} within a cell;
                {{ error.reached }} of {{ error.cells }} cells reached
              </dd>
            </div>
          </dl>
          <p v-for="change in round.machineChanges" :key="change.at">
            <b>Changed on the machine:</b> {{ written(change.says) }}
            <span class="small soft">{{ whenText(change.at) }}</span>
          </p>
          <p v-if="round.sent?.symptoms"><b>Said with it:</b> {{ round.sent.symptoms }}</p>
          <ProblemNote v-if="looking.problem.value" :problem="looking.problem.value" />

          <RoundLogs :view="view" :round="round" @changed="loading.ask(load)" />

          <template v-if="map">
            <h3 class="mt-5 mb-2 text-body text-ink">Error by speed and load</h3>
            <FigureMap
              :x="map.x"
              :y="map.y"
              :cells="map.mean"
              :count="map.count"
              signed
              :unit="agreement.aim?.unit ?? ''"
              :label="`Error of round ${round.number}`"
            />
          </template>

          <template v-if="changes">
            <h3 class="mt-5 mb-2 text-body text-ink">What its image changes</h3>
            <FindingList :findings="changes.findings" />
            <TableChange v-for="table in changes.tables" :key="table.id" :table="table" />
          </template>
          <p v-else-if="round.number === 1" class="soft">
            The base image: there is none before it to compare with.
          </p>

          <ImageTables
            v-if="round.definitionId"
            :key="round.number"
            :image-id="round.imageId"
            :definition-id="round.definitionId"
          />
          <form
            v-if="!view.state.closed && chosen === strip.length"
            class="flex mt-4.5 gap-2.5 max-w-160"
            @submit.prevent="tellChange"
          >
            <NInput
              v-model:value="says"
              placeholder="Changed on the machine since: parts, fuel, repairs"
              :input-props="{ 'aria-label': 'Changed on the machine' }"
              :maxlength="1000"
            />
            <NButton attr-type="submit" :disabled="!says.trim()" :loading="telling.busy.value">Add</NButton>
          </form>
          <ProblemNote v-if="telling.problem.value" :problem="telling.problem.value" />
        </section>
      </template>
    </template>
  </div>
</template>

<style scoped>
.facts div {
  display: grid;
  grid-template-columns: 110px 1fr;
  padding: 3px 0;
}
</style>
