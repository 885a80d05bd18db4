<script setup lang="ts">
import { groupedNumber, heaviestFirst, inSentence, type Verdict } from '@bench-wake/core/kernel'
import { logbookRow, stripOf } from '@bench-wake/core/record'
import { checkText } from '@bench-wake/core/link'
import { cameToItsEnd, conditionOf, guidance, taskText, writes, type WakeEvent } from '@bench-wake/core/run'
import type { KeptRun } from '@bench-wake/server'
import { NButton } from 'naive-ui'
import { computed, onMounted, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ComparedTable from '../parts/ComparedTable.vue'
import FindingList from '../parts/FindingList.vue'
import { rowVerdict, rowWords } from '../parts/outcome'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { recordWords } from '../parts/record-words'
import VerdictMark from '../parts/VerdictMark.vue'
import WakeStrip from '../parts/WakeStrip.vue'
import { api, got } from '../stores/api'
import { durationText, exactTimeText, voltsText, whenText, written } from '../parts/written'

const id = String(useRoute().params['id'])
const router = useRouter()
const run = shallowRef<KeptRun | null>(null)
const wake = shallowRef<WakeEvent[]>([])
const { problem, ask } = useAsked()

onMounted(() =>
  ask(async () => {
    run.value = await got<KeptRun>(api.runs[':id'].$get({ param: { id } }))
    wake.value = await got<WakeEvent[]>(api.runs[':id'].wake.$get({ param: { id } }))
  }),
)
const state = computed(() => run.value?.state ?? null)
const row = computed(() => (state.value ? logbookRow(state.value) : null))
const events = computed(() => wake.value.filter(({ body }) => body.type !== 'progress'))

/** The plan in force at each event: every leg has its own. */
const planAt = computed(() => {
  const plans = new Map<number, readonly { kind: string }[]>()
  let plan: readonly { kind: string }[] = []
  for (const { seq, body } of wake.value) {
    if (body.type === 'run.opened' || body.type === 'leg.opened') plan = body.plan
    plans.set(seq, plan)
  }
  return plans
})

/** What each gate said as the last leg began, by its heaviest finding. */
const atStart = computed(() => {
  const opened = wake.value.findLast(({ body }) => body.type === 'run.opened' || body.type === 'leg.opened')
  if (opened?.body.type !== 'run.opened' && opened?.body.type !== 'leg.opened') return []
  return (opened.body.gates ?? []).flatMap(({ id: gate, name, verdict, findings }) => {
    const [first] = heaviestFirst(findings)
    return first ? [{ id: gate, name, verdict: verdict as Verdict, says: first.says }] : []
  })
})
/** The last word on the job; null while it is open, or was opened again since. */
const closed = computed(() => {
  const last = wake.value.findLast(({ body }) => body.type === 'job.closed' || body.type === 'job.reopened')
  return last?.body.type === 'job.closed' ? last.body : null
})

const words = (event: WakeEvent) =>
  recordWords(event, (step) => planAt.value.get(event.seq)?.[step]?.kind ?? '')
</script>

<template>
  <div class="page">
    <ProblemNote v-if="problem" :problem="problem" />
    <template v-else-if="run && state && row">
      <div class="head">
        <div>
          <p class="small soft">{{ state.facts.unit.place }}, {{ whenText(state.startedAt) }}</p>
          <h1>
            <VerdictMark :verdict="rowVerdict(row)" :size="24" /> {{ state.facts.unit.name }}:
            {{ rowWords(row).toLowerCase() }}
          </h1>
          <p v-if="row.trouble" class="lead text-lead">{{ row.trouble }}</p>
        </div>
        <div class="acts no-print">
          <NButton @click="router.push({ name: 'job', params: { id: run.jobId } })">Open the job</NButton>
        </div>
      </div>
      <WakeStrip
        :strip="stripOf(state)"
        :width="1100"
        :height="54"
        :label="`Wake of ${state.facts.unit.name}`"
      />
      <ol
        v-if="state.pastLegs.length"
        class="mt-1.5 mb-2.5 mx-0 pl-4.5 text-body"
        aria-label="Legs of this run"
      >
        <li v-for="past in state.pastLegs" :key="past.leg">
          <b>Leg {{ past.leg }}</b> {{ whenText(past.startedAt) }}. {{ past.trouble }}
          <template v-if="writes(state.facts) && state.facts.image"
            >Byte {{ groupedNumber(past.acknowledged) }} of {{ groupedNumber(state.facts.image.bytes) }},
          </template>
          {{ past.retries }} {{ past.retries === 1 ? 'retry' : 'retries' }}.
        </li>
        <li>
          <b>Leg {{ state.leg }}</b> {{ whenText(state.legAt) }},
          {{ state.goesOnAt === null ? 'from the beginning' : `from byte ${groupedNumber(state.goesOnAt)}` }}:
          {{ rowWords(row).toLowerCase() }}.
        </li>
      </ol>
      <ol class="phases flex mt-2 mb-5.5 mx-0 p-0 gap-y-1 gap-x-5 flex-wrap list-none small soft">
        <li v-for="step in state.steps" :key="step.kind" :data-state="step.state">
          {{ step.kind }}
          <b v-if="step.startedAt !== undefined" class="text-ink font-650">{{
            durationText((step.endedAt ?? state.at) - step.startedAt)
          }}</b>
          <span v-else>not reached</span>
        </li>
      </ol>

      <div class="flex pb-5.5 gap-y-4 gap-x-11 flex-wrap line-b">
        <div class="small soft">
          <b class="block text-large font-650 text-ink"
            >{{ row.from ?? 'not known' }} to {{ row.to ?? 'not known' }}</b
          >{{ inSentence(state.facts.component.name) }}
        </div>
        <div class="small soft">
          <b class="block text-large font-650 text-ink">{{ durationText(row.tookMs) }}</b>from first to last
          event
        </div>
        <div v-if="writes(state.facts) && state.facts.image" class="small soft">
          <b class="block text-large font-650 text-ink">{{ groupedNumber(row.bytesAcknowledged) }}</b>of
          {{ groupedNumber(state.facts.image.bytes) }} bytes acknowledged
        </div>
        <div class="small soft">
          <b class="block text-large font-650 text-ink">{{ row.retries }}</b
          >{{ row.retries === 1 ? 'retry' : 'retries' }}
        </div>
        <div class="small soft">
          <b class="block text-large font-650 text-ink">{{
            row.lowestVolts === null ? 'not known' : voltsText(row.lowestVolts)
          }}</b
          >lowest supply, floor
          {{ voltsText(state.facts.floorVolts) }}
        </div>
      </div>

      <div class="grid gap-12 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] narrow:gap-0 narrow:grid-cols-1">
        <section>
          <template v-if="state.problem">
            <h2 class="mt-6 mb-2">What went wrong</h2>
            <ProblemNote
              :problem="{ ...state.problem, type: '', status: 0, detail: '', title: state.problem.says }"
            />
          </template>
          <template v-if="!cameToItsEnd(state) && state.outcome !== 'running'">
            <h2 class="mt-6 mb-2">What the unit is now</h2>
            <p class="lead text-lead">{{ written(guidance[conditionOf(state)].says) }}</p>
            <p>{{ written(guidance[conditionOf(state)].next) }}</p>
          </template>
          <template v-if="state.compared.length">
            <h2 class="mt-6 mb-2">Before and after</h2>
            <ComparedTable :rows="state.compared" />
          </template>
          <template v-if="state.findings.length">
            <h2 class="mt-6 mb-2">Judged</h2>
            <FindingList :findings="state.findings" :releases="state.facts.releases" />
          </template>
        </section>
        <section>
          <h2 class="mt-6 mb-2">The record</h2>
          <dl class="m-0">
            <div>
              <dt>Why</dt>
              <dd>{{ state.facts.job.reason }}</dd>
            </div>
            <div>
              <dt>Unit</dt>
              <dd>{{ state.facts.unit.name }}, <span class="mono">{{ state.facts.unit.serial }}</span></dd>
            </div>
            <div v-if="row.task !== 'write'">
              <dt>What for</dt>
              <dd>{{ taskText[row.task] }}</dd>
            </div>
            <div v-if="row.foundOut">
              <dt>Result</dt>
              <dd>{{ row.foundOut }}</dd>
            </div>
            <div v-if="state.facts.chip">
              <dt>Chip</dt>
              <dd>{{ state.facts.chip.label }}, <span class="mono">{{ state.facts.chip.mark }}</span></dd>
            </div>
            <template v-if="state.facts.image">
              <div>
                <dt>Image</dt>
                <dd class="mono">{{ state.facts.image.name }}</dd>
              </div>
              <div>
                <dt>SHA-256</dt>
                <dd class="mono">{{ state.facts.image.sha256 }}</dd>
              </div>
              <div v-if="state.facts.image.known">
                <dt>Known as this image</dt>
                <dd>{{ state.facts.image.known }}</dd>
              </div>
            </template>
            <div v-if="row.task === 'write'">
              <dt>Check after the write</dt>
              <dd>
                {{
                  state.verified ? `${checkText(state.verified)}: ${state.verified.found}` : 'not compared'
                }}
              </dd>
            </div>
            <div>
              <dt>Port</dt>
              <dd>
                {{ state.facts.port.name
                }}<template v-if="state.facts.port.standIn"
                  >, {{ state.facts.speed ? `speed ${state.facts.speed}×` : 'as fast as possible' }}</template
                >
              </dd>
            </div>
            <div v-if="state.facts.adapter">
              <dt>Adapter</dt>
              <dd>
                {{ state.facts.adapter.name
                }}{{ state.facts.adapter.serial ? `, no. ${state.facts.adapter.serial}` : '' }}
              </dd>
            </div>
            <div v-if="state.facts.shed?.length">
              <dt>Shed for it</dt>
              <dd>{{ state.facts.shed.join('; ') }}</dd>
            </div>
            <div v-if="atStart.length">
              <dt>Bench at its start</dt>
              <dd>
                <ul class="plain">
                  <li v-for="gate in atStart" :key="gate.id">
                    <VerdictMark :verdict="gate.verdict" quiet /> <b>{{ gate.name }}.</b>
                    {{ written(gate.says) }}
                  </li>
                </ul>
              </dd>
            </div>
            <div v-if="closed">
              <dt>Closed</dt>
              <dd>
                {{ closed.by }}: {{ closed.cameTo }}. {{ closed.note }}
                <small v-if="closed.back.length">Put back: {{ closed.back.join(' ') }}</small>
              </dd>
            </div>
            <div v-for="release in state.facts.releases" :key="release.rule">
              <dt>Released</dt>
              <dd>{{ release.rule }}, by {{ release.name }}: {{ release.reason }}</dd>
            </div>
            <div v-if="state.facts.names">
              <dt>Names</dt>
              <dd>
                {{
                  state.facts.names === 'typed'
                    ? 'As typed: nobody had to sign in'
                    : 'Of people who were signed in'
                }}
              </dd>
            </div>
            <div>
              <dt>Chain of events</dt>
              <dd>
                <VerdictMark :verdict="run.brokenAt === null ? 'go' : 'stop'" quiet />
                {{
                  run.brokenAt === null
                    ? `whole, ${wake.length} events`
                    : `altered from event ${run.brokenAt} on`
                }}
              </dd>
            </div>
          </dl>
          <h2 class="mt-6 mb-2">Events</h2>
          <ol class="plain mono small max-h-105 overflow-y-auto" tabindex="0" aria-label="Events">
            <li v-for="event in events" :key="event.seq" class="py-0.5">
              <span class="mr-2.5 soft">{{ exactTimeText(event.at) }}</span> {{ words(event) }}
            </li>
          </ol>
        </section>
      </div>
    </template>
    <p v-else class="soft" role="status">Loading…</p>
  </div>
</template>

<style scoped>
.phases [data-state='broken'] {
  color: var(--stop);
}
dl div {
  display: grid;
  grid-template-columns: 120px 1fr;
  gap: 16px;
  padding: 6px 0;
  border-bottom: 1px solid var(--hair);
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
