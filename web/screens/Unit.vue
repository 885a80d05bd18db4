<script setup lang="ts">
import { drivesLink, type FamilyDocument } from '@bench-wake/core/family'
import { usualWorkshopRules, type SupplierRequest } from '@bench-wake/core/fit'
import { gatesBeforeLink, shutLink } from '@bench-wake/core/ready'
import { dayAt, groupedNumber, hexNumber } from '@bench-wake/core/kernel'
import type { LogbookRow } from '@bench-wake/core/record'
import type { FullUnit, ReadOut } from '@bench-wake/server'
import { NButton, NCheckbox, NCheckboxGroup, NTable } from 'naive-ui'
import { unitHistory } from '@bench-wake/core/unit'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { familyOf } from '../parts/family-of'
import FactList from '../parts/FactList.vue'
import PortChoice from '../parts/PortChoice.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import SnapshotTable from '../parts/SnapshotTable.vue'
import JobForm from '../parts/unit/JobForm.vue'
import RoundsNow from '../parts/rounds/RoundsNow.vue'
import PageCompare from '../parts/unit/PageCompare.vue'
import PageEntry from '../parts/unit/PageEntry.vue'
import SupplierRequests from '../parts/unit/SupplierRequests.vue'
import UseQuestions from '../parts/unit/UseQuestions.vue'
import UnitTimeline from '../parts/unit/UnitTimeline.vue'
import { useAsked } from '../parts/useAsked'
import { useTurns } from '../parts/useTurns'
import VerdictMark from '../parts/VerdictMark.vue'
import WakeStrip from '../parts/WakeStrip.vue'
import { sourceWords } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { durationText, whenText, written } from '../parts/written'

type ShownUnit = FullUnit & { runs: LogbookRow[]; requests: SupplierRequest[]; backups: ReadOut[] }

const id = String(useRoute().params['id'])
const bench = useBench()
const unit = shallowRef<ShownUnit | null>(null)
/** Its history is drawn after the rest. */
const turns = useTurns(() => (unit.value ? 1 : 0))
const history = computed(() => {
  if (!unit.value) return null
  const writes = unit.value.runs
    .filter(({ outcome }) => outcome === 'proved')
    .map(({ startedAt, tookMs }) => startedAt + tookMs)
  return unitHistory(unit.value.snapshots.toReversed(), writes, Date.now())
})
const port = ref<string | null>(null)
const byHand = ref<'type' | 'paste' | null>(null)
const jobOpen = ref(false)
const reading = useAsked()
const loading = useAsked()

const load = async () => {
  unit.value = await got<ShownUnit>(api.units[':id'].$get({ param: { id } }))
}
onMounted(() => loading.ask(() => Promise.all([load(), bench.loadFamilies()])))

const family = computed<FamilyDocument | undefined>(() =>
  bench.families?.find((each) => each.id === unit.value?.familyId),
)
const newest = computed(() => unit.value?.snapshots.find(({ lines }) => lines.length > 0))
const drives = computed(() => family.value?.links.some(drivesLink) ?? false)

/** What fit rests on; unknown is shown as unknown, with where to look. */
const facts = computed(() => {
  const own = unit.value
  if (!own || !family.value) return []
  const { facts: known } = own
  const { revisions, models } = family.value.hardware
  const how = revisions.map(({ identifiedBy }) => identifiedBy.says).join(' ')
  const row = (label: string, value: string | undefined, otherwise: string) =>
    value === undefined ? { label, value: otherwise, soft: true } : { label, value, mono: true }
  const revision = revisions.find(({ major }) => major === known.hardwareMajor)
  const hardware = known.contradiction ?? known.unknownSign
  return [
    row(
      'Hardware',
      revision
        ? `${revision.name}${known.hardware && known.hardware !== revision.name ? `, ${known.hardware}` : ''}`
        : (hardware ?? known.hardware),
      `not known. ${how}`,
    ),
    ...(models ? [row('Model', known.model, 'not known')] : []),
    ...family.value.components
      .filter(({ onlyOn }) => !onlyOn || !known.model || onlyOn.includes(known.model))
      .map(({ id: component, name }) => row(name, known.versions[component], 'version not known')),
    ...(known.batch ? [row('Batch', known.batch, '')] : []),
    ...(known.layout ? [row('Memory layout', known.layout, '')] : []),
  ]
})

/** A restore is a job like any other, with its own fit check (PRACTICE G1). */
const restoring = useAsked()
const router = useRouter()
const restore = (kept: ReadOut) =>
  restoring.ask(async () => {
    const { id: jobId } = await got<{ id: string }>(
      api.jobs.$post({
        json: {
          unitId: id,
          imageId: kept.imageId,
          kind: 'fault',
          reason: kept.original
            ? `Bring back what it came with: ${kept.name}`
            : `Bring back what was in it: ${kept.name}`,
          symptoms: [],
          day: dayAt(Date.now()),
        },
      }),
    )
    await router.push({ name: 'job', params: { id: jobId } })
  })

/** What stands in the way of opening the link: without a job each is answered for at this one reading. */
const inTheWay = computed(() =>
  family.value && drives.value
    ? shutLink(
        gatesBeforeLink({
          family: familyOf(family.value),
          said: {},
          adapters: [],
          workshopRules: usualWorkshopRules,
          now: Date.now(),
          standIn: bench.ports?.find((each) => each.id === port.value)?.kind === 'stand-in',
        }),
      )
    : [],
)
const looked = ref<string[]>([])
const left = computed(() => inTheWay.value.filter(({ rule }) => !looked.value.includes(rule)))
const read = () =>
  reading.ask(async () => {
    await got(
      api.units[':id'].snapshots.$post({
        param: { id },
        json: { port: port.value!, looked: looked.value },
      }),
    )
    // Who reads again looks again.
    looked.value = []
    await load()
  })
const kept = async () => {
  byHand.value = null
  await loading.ask(load)
}
</script>

<template>
  <div class="page">
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <template v-if="unit && family">
      <div class="head">
        <div>
          <p class="small soft">
            <RouterLink :to="{ name: 'family', params: { id: family.id } }">{{ family.name }}</RouterLink>,
            {{ unit.place }}
          </p>
          <h1>{{ unit.name }}</h1>
          <p>serial <span class="mono">{{ unit.serial }}</span></p>
        </div>
        <NButton v-if="!jobOpen" type="primary" size="large" @click="jobOpen = true">Start a job</NButton>
      </div>
      <RoundsNow :unit-id="unit.id" begin />
      <JobForm v-if="jobOpen" :unit="unit" :family="family" @leave="jobOpen = false" />

      <div class="grid pt-5.5 gap-12 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] line-t narrow:grid-cols-1">
        <section>
          <h2>What is known of it</h2>
          <FactList :facts="facts" />
          <div class="flex my-4 gap-2.5 flex-wrap items-center">
            <PortChoice v-if="drives" v-model="port" :unit-id="unit.id" />
            <NButton
              v-if="drives"
              :disabled="!port || left.length > 0"
              :loading="reading.busy.value"
              @click="read"
              >Read it now</NButton
            >
            <NButton @click="byHand = byHand === 'type' ? null : 'type'">Type its page</NButton>
            <NButton @click="byHand = byHand === 'paste' ? null : 'paste'">Paste its page</NButton>
          </div>
          <fieldset
            v-if="port && inTheWay.length"
            class="looked mt-0 mb-4 mx-0 py-1 pl-3.5 pr-0 bare-border bar-hold"
          >
            <legend>Before the link is opened</legend>
            <NCheckboxGroup v-model:value="looked">
              <NCheckbox v-for="each in inTheWay" :key="each.rule" :value="each.rule">
                {{ written(each.remedy ?? each.says) }}
                <small v-if="each.level === 'stop'" class="soft block">{{ written(each.because) }}</small>
              </NCheckbox>
            </NCheckboxGroup>
          </fieldset>
          <PageEntry
            v-if="byHand"
            :key="byHand"
            :unit-id="unit.id"
            :family="family"
            :way="byHand"
            @kept="kept"
            @leave="byHand = null"
          />
          <ProblemNote v-if="reading.problem.value" :problem="reading.problem.value" />
          <UseQuestions
            :unit-id="unit.id"
            :family="family"
            :answered="unit.answered"
            @answered="loading.ask(load)"
          />
          <SupplierRequests
            :unit="unit"
            :family="family"
            :requests="unit.requests"
            @changed="loading.ask(load)"
          />
        </section>
        <section>
          <h2>Its newest page</h2>
          <p v-if="newest" class="small soft">
            {{ sourceWords[newest.source] }}, {{ whenText(newest.at)
            }}<template v-if="newest.inBootloader"
              >, from its bootloader: it has no version there. Write it, or switch it off and on.</template
            >
          </p>
          <SnapshotTable v-if="newest" :snapshot="newest" />
          <p v-else class="lead my-2.5 text-lead">
            <VerdictMark verdict="unknown" /> Nobody has read this unit yet.
          </p>
          <a v-if="newest?.photo" :href="`/api/units/${unit.id}/photos/${newest.photo}`" target="_blank"
            ><img
              class="block mt-2.5 max-w-65 max-h-50 line-a"
              :src="`/api/units/${unit.id}/photos/${newest.photo}`"
              :alt="`Photo of ${whenText(newest.at)}`"
          /></a>
          <p v-for="(jump, index) in unit.clockJumps" :key="`jump-${index}`" class="small" role="note">
            The clock stood ahead: a page bears {{ whenText(jump.from) }}, the one recorded after it
            {{ whenText(jump.to) }}. Pages are ordered by when they were recorded.
          </p>
          <details v-if="unit.refused.length">
            <summary class="fold">
              Pages of other units, read here and refused: {{ unit.refused.length }}
            </summary>
            <div v-for="(page, index) in unit.refused" :key="`refused-${index}`">
              <p class="small soft">{{ whenText(page.at) }}: {{ page.refused }}</p>
              <SnapshotTable :snapshot="page" />
            </div>
          </details>
          <template v-if="unit.snapshots.length > 1">
            <h2 class="mt-6.5 mb-2">Two pages compared</h2>
            <PageCompare :snapshots="unit.snapshots" :family="family" />
            <h2 class="mt-6.5 mb-2">Older pages</h2>
            <details v-for="(snapshot, index) in unit.snapshots.slice(1)" :key="index">
              <summary class="fold">{{ whenText(snapshot.at) }}, {{ sourceWords[snapshot.source] }}</summary>
              <SnapshotTable :snapshot="snapshot" />
              <img
                v-if="snapshot.photo"
                class="block mt-2.5 max-w-65 max-h-50 line-a"
                :src="`/api/units/${unit.id}/photos/${snapshot.photo}`"
                :alt="`Photo of ${whenText(snapshot.at)}`"
              />
            </details>
          </template>
          <template v-if="unit.backups.length">
            <h2 class="mt-6.5 mb-2">Read out of it</h2>
            <ul class="mt-0 mb-3 mx-0 p-0 list-none">
              <li
                v-for="each in unit.backups"
                :key="each.at"
                class="flex py-2 gap-3 justify-between items-center line-t"
              >
                <div>
                  <RouterLink :to="{ name: 'image', params: { id: each.imageId } }">{{
                    each.name
                  }}</RouterLink>
                  <small class="block">{{
                    each.original ? 'What it came with.' : 'As it was found, after a write here.'
                  }}</small>
                  <small class="soft block"
                    >{{ groupedNumber(each.bytes) }} bytes from
                    <span class="mono">{{ hexNumber(each.address, 8) }}</span>, read
                    {{ each.reads > 1 ? `${each.reads} times and equal` : 'once' }},
                    {{ whenText(each.at) }}</small
                  >
                  <small v-if="each.restore.says" class="soft block">{{ written(each.restore.says) }}</small>
                </div>
                <NButton
                  v-if="each.restore.verdict !== 'stop' && each.restore.verdict !== 'unknown'"
                  :loading="restoring.busy.value"
                  @click="restore(each)"
                  >Restore it</NButton
                >
              </li>
            </ul>
            <ProblemNote v-if="restoring.problem.value" :problem="restoring.problem.value" />
          </template>
          <template v-if="turns > 0 && history && (history.parts.length > 0 || unit.runs.length > 0)">
            <h2 class="mt-6.5 mb-2">Over the years</h2>
            <UnitTimeline :history="history" :runs="unit.runs" />
          </template>
          <h2 class="mt-6.5 mb-2">Its runs</h2>
          <NTable v-if="unit.runs.length" v-columns :bordered="false" class="list">
            <tbody>
              <tr v-for="run in unit.runs" :key="run.runId" class="leads">
                <td>
                  <RouterLink :to="{ name: 'record', params: { id: run.runId } }">{{
                    whenText(run.startedAt)
                  }}</RouterLink>
                  <small
                    >{{ run.from ?? 'not known' }} to {{ run.to ?? 'not known' }},
                    {{ durationText(run.tookMs) }}</small
                  >
                </td>
                <td>
                  <WakeStrip :strip="run.strip" :width="170" :label="`Run of ${whenText(run.startedAt)}`" />
                  <small>{{ run.trouble ?? 'Proved.' }}</small>
                </td>
              </tr>
            </tbody>
          </NTable>
          <p v-else class="soft">None yet.</p>
        </section>
      </div>
    </template>
    <p v-else-if="!loading.problem.value" class="soft" role="status">Loading…</p>
  </div>
</template>

<style scoped>
.looked :deep(.n-checkbox) {
  display: flex;
  padding: 10px 0;
}
</style>
