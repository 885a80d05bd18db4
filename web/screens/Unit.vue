<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { durationText } from '@bench-wake/core/kernel'
import type { LogbookRow } from '@bench-wake/core/record'
import type { KeptSnapshot, KnownUnit } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import PortChoice from '../parts/PortChoice.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import SnapshotTable from '../parts/SnapshotTable.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import WakeStrip from '../parts/WakeStrip.vue'
import { whenText } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'

type FullUnit = KnownUnit & { snapshots: KeptSnapshot[]; runs: LogbookRow[] }

const id = String(useRoute().params['id'])
const router = useRouter()
const bench = useBench()
const unit = ref<FullUnit | null>(null)
const port = ref<string | null>(null)
const byHand = ref(false)
const values = reactive<Record<string, string>>({})
const job = reactive({ open: false, reason: '', imageId: '' })
const reading = useAsked()
const starting = useAsked()
const loading = useAsked()

const load = async () => {
  unit.value = await got<FullUnit>(api.units[':id'].$get({ param: { id } }))
}
onMounted(() => loading.ask(() => Promise.all([load(), bench.loadFamilies(), bench.loadImages()])))

const family = computed<FamilyDocument | undefined>(() =>
  bench.families?.find((each) => each.id === unit.value?.familyId),
)
const newest = computed(() => unit.value?.snapshots[0])
const sources = {
  link: 'read over the link',
  menu: 'from its menu',
  'boot-screen': 'from its start screen',
  label: 'from its label',
  app: 'from its app',
}

const read = () =>
  reading.ask(async () => {
    await got(api.units[':id'].snapshots.$post({ param: { id }, json: { port: port.value! } }))
    await load()
  })
const keep = () =>
  reading.ask(async () => {
    const lines = (family.value?.snapshot ?? []).flatMap(({ field, label }) =>
      values[field]?.trim() ? [{ field, label, value: values[field].trim() }] : [],
    )
    await got(api.units[':id'].snapshots.$post({ param: { id }, json: { source: 'label', lines } }))
    byHand.value = false
    await load()
  })
const start = () =>
  starting.ask(async () => {
    const made = await got<{ id: string }>(
      api.jobs.$post({
        json: {
          unitId: id,
          imageId: job.imageId || null,
          reason: job.reason,
          day: new Date().toISOString().slice(0, 10),
        },
      }),
    )
    await router.push({ name: 'job', params: { id: made.id } })
  })
</script>

<template>
  <div class="page">
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <template v-else-if="unit">
      <div class="head">
        <div>
          <p class="small soft">{{ family?.name ?? unit.familyId }}, {{ unit.place }}</p>
          <h1>{{ unit.name }}</h1>
          <p>
            serial <span class="mono">{{ unit.serial }}</span>
          </p>
        </div>
        <NButton v-if="!job.open" type="primary" size="large" @click="job.open = true">Start a job</NButton>
      </div>
      <form v-if="job.open" class="form" @submit.prevent="start">
        <label
          >Why is it being flashed?
          <NInput
            v-model:value="job.reason"
            type="textarea"
            :autosize="{ minRows: 2 }"
            placeholder="What it should cure, how often it shows, since when"
        /></label>
        <label
          >Image
          <select v-model="job.imageId" class="native">
            <option value="">Choose later</option>
            <option v-for="image in bench.images ?? []" :key="image.id" :value="image.id">
              {{ image.name }}: {{ image.identity?.version ?? 'no version' }}, hardware
              {{ image.identity?.hardwareMajor ?? 'not known' }}
            </option>
          </select></label
        >
        <div class="acts">
          <NButton
            type="primary"
            attr-type="submit"
            :loading="starting.busy.value"
            :disabled="!job.reason.trim()"
            >Open the job</NButton
          >
          <NButton @click="job.open = false">Leave it</NButton>
        </div>
        <ProblemNote v-if="starting.problem.value" :problem="starting.problem.value" />
      </form>

      <div class="two">
        <section>
          <h2>What it says of itself</h2>
          <p v-if="newest" class="small soft">{{ sources[newest.source] }}, {{ whenText(newest.at) }}</p>
          <SnapshotTable v-if="newest" :snapshot="newest" />
          <p v-else class="lead"><VerdictMark verdict="unknown" /> Nobody has read this unit yet.</p>
          <div class="read">
            <PortChoice v-model="port" :unit-id="unit.id" />
            <NButton :disabled="!port" :loading="reading.busy.value" @click="read">Read it now</NButton>
            <NButton quaternary @click="byHand = !byHand">Type it from the label</NButton>
          </div>
          <form v-if="byHand" class="form" @submit.prevent="keep">
            <label v-for="line in family?.snapshot ?? []" :key="line.field"
              >{{ line.label }}
              <NInput
                :value="values[line.field] ?? ''"
                class="mono"
                @update:value="values[line.field] = $event"
            /></label>
            <div class="acts"><NButton type="primary" attr-type="submit">Keep this page</NButton></div>
          </form>
          <ProblemNote v-if="reading.problem.value" :problem="reading.problem.value" />
        </section>
        <section>
          <h2>Its runs</h2>
          <table v-if="unit.runs.length" class="list">
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
          </table>
          <p v-else class="soft">None yet.</p>
          <template v-if="unit.snapshots.length > 1">
            <h2 class="older">Older pages</h2>
            <details v-for="(snapshot, index) in unit.snapshots.slice(1)" :key="index">
              <summary>{{ whenText(snapshot.at) }}, {{ sources[snapshot.source] }}</summary>
              <SnapshotTable :snapshot="snapshot" />
            </details>
          </template>
        </section>
      </div>
    </template>
    <p v-else class="soft" role="status">Looking up the unit…</p>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 48px;
  border-top: 1px solid var(--hair);
  padding-top: 22px;
}
.read {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
  align-items: center;
  margin: 16px 0;
}
.form {
  display: grid;
  gap: 14px;
  max-width: 640px;
  margin-bottom: 22px;
}
label {
  display: grid;
  gap: 4px;
  font-size: 13px;
  color: var(--soft);
}
.acts {
  display: flex;
  gap: 10px;
}
.lead {
  font-size: 18px;
  margin: 10px 0;
}
.older {
  margin: 26px 0 8px;
}
summary {
  min-height: 44px;
  line-height: 44px;
  cursor: pointer;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
