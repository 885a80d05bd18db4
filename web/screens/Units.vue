<script setup lang="ts">
import { versionsText } from '@bench-wake/core/unit'
import type { KnownUnit } from '@bench-wake/server'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ListTable from '../parts/ListTable.vue'
import type { ListColumn } from '../parts/list-column'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { whenText } from '../parts/written'

const bench = useBench()
const router = useRouter()
const { busy, problem, ask } = useAsked()
const query = useRoute().query
const adding = ref(query['add'] !== undefined)
/** A link may ask for a place. */
const find = typeof query['find'] === 'string' ? query['find'] : undefined
const form = reactive({ name: '', place: '', serial: '', familyId: '' })

onMounted(() =>
  ask(async () => {
    await Promise.all([bench.loadUnits(), bench.loadFamilies()])
    form.familyId = bench.families?.[0]?.id ?? ''
  }),
)
const familyName = computed(() => new Map((bench.families ?? []).map(({ id, name }) => [id, name])))

const columns: ListColumn<KnownUnit>[] = [
  {
    key: 'name',
    title: 'Unit',
    width: '30%',
    sort: ({ name }) => name,
    text: ({ place, familyId }) => `${place} ${familyName.value.get(familyId) ?? ''}`,
  },
  { key: 'serial', title: 'Serial', sort: ({ serial }) => serial },
  { key: 'hardware', title: 'Hardware', sort: ({ facts }) => facts.hardware ?? null },
  { key: 'versions', title: 'Versions', sort: ({ facts }) => versionsText(facts.versions) || null },
  { key: 'read', title: 'Last read', sort: ({ facts }) => facts.readAt ?? null },
]
const familyOptions = computed(() =>
  (bench.families ?? []).map(({ id, name }) => ({ value: id, label: name })),
)

const add = () =>
  ask(async () => {
    const { id } = await got<{ id: string }>(api.units.$post({ json: { ...form } }))
    await router.push({ name: 'unit', params: { id } })
  }, `${form.name.trim()} is added.`)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Units</h1>
      <div class="acts">
        <RouterLink :to="{ name: 'families' }">Family profiles</RouterLink>
        <NButton @click="router.push({ name: 'teach' })">Teach a new kind</NButton>
        <NButton v-if="!adding" @click="adding = true">Add a unit</NButton>
      </div>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <form v-if="adding" class="form grid mb-3 pb-5.5 gap-4 fit-220 items-end line-b" @submit.prevent="add">
      <div class="field">
        <span>What it is</span>
        <PickOne v-model:value="form.familyId" label="What it is" :options="familyOptions" filterable />
      </div>
      <label class="field">Name <NInput v-model:value="form.name" placeholder="Fog signal 12" /></label>
      <label class="field">Place <NInput v-model:value="form.place" placeholder="Where it stands" /></label>
      <label class="field"
        >Serial <NInput v-model:value="form.serial" placeholder="As on the label" class="mono"
      /></label>
      <div class="acts">
        <NButton type="primary" attr-type="submit" :loading="busy">Add it</NButton>
        <NButton @click="adding = false">Cancel</NButton>
      </div>
    </form>
    <ListTable
      v-if="bench.units?.length"
      :rows="bench.units"
      :columns="columns"
      :key-of="({ id }) => id"
      :find="find"
      label="Units"
    >
      <template #name="{ row }">
        <RouterLink :to="{ name: 'unit', params: { id: row.id } }">{{ row.name }}</RouterLink>
        <small>{{ row.place }} · {{ familyName.get(row.familyId) ?? row.familyId }}</small>
      </template>
      <template #serial="{ row }"><span class="mono">{{ row.serial }}</span></template>
      <template #hardware="{ row }"
        ><span :class="{ soft: !row.facts.hardware }">{{ row.facts.hardware ?? 'not known' }}</span></template
      >
      <template #versions="{ row }"
        ><span :class="{ soft: !versionsText(row.facts.versions) }">{{
          versionsText(row.facts.versions) || 'not known'
        }}</span></template
      >
      <template #read="{ row }"
        ><span :class="{ soft: !row.facts.readAt }">{{
          row.facts.readAt ? whenText(row.facts.readAt) : 'never'
        }}</span></template
      >
    </ListTable>
    <p v-else-if="bench.units && bench.families?.length === 0" class="soft">
      No unit yet, and no kind that it could be of. Teach its kind first, or take over a profile.
    </p>
    <p v-else-if="bench.units" class="soft">No unit yet. Add the first with the button above.</p>
    <p v-else-if="!problem" class="soft" role="status">Loading…</p>
  </div>
</template>
