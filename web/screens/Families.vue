<script setup lang="ts">
import { beginFamily, inTodaysForm } from '@bench-wake/core/family'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import FilePick from '../parts/FilePick.vue'
import ListTable from '../parts/ListTable.vue'
import type { ListColumn } from '../parts/list-column'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { useBench } from '../stores/bench'
import { useDraft } from '../stores/draft'

const bench = useBench()
const draft = useDraft()
const router = useRouter()
const { problem, ask } = useAsked()
const refused = ref('')

onMounted(() => ask(() => Promise.all([bench.loadFamilies(true), bench.loadUnits()])))
const rows = computed(() =>
  (bench.families ?? []).map((family) => ({
    family,
    units: (bench.units ?? []).filter(({ familyId }) => familyId === family.id).length,
    components: family.components.map(({ name }) => name),
    links: family.links.map(({ name }) => name),
  })),
)
const columns: ListColumn<(typeof rows.value)[number]>[] = [
  { key: 'family', title: 'Family', width: '34%', sort: ({ family }) => family.name },
  { key: 'hardware', title: 'Hardware identified by', width: '18%' },
  { key: 'components', title: 'Components', sort: ({ components }) => components.length },
  { key: 'links', title: 'Links' },
  { key: 'units', title: 'Units', width: '10%', sort: ({ units }) => units },
]
/** A whole profile to write into, for whoever knows the format: the least one, with every field that has to be filled. */
async function writeWhole() {
  draft.document = beginFamily()
  await router.push({ name: 'family', params: { id: 'new' } })
}
/** A JSON file becomes a draft; nothing is kept before the editor finds it whole. */
async function take(file: File) {
  refused.value = ''
  try {
    draft.document = inTodaysForm(JSON.parse(await file.text()))
  } catch (error) {
    refused.value = `${file.name} is no JSON: ${(error as Error).message}`
    return
  }
  const known = bench.families?.find(({ id }) => id === (draft.document as { id?: string } | null)?.id)
  await router.push({ name: 'family', params: { id: known?.id ?? 'new' }, query: { draft: '1' } })
}
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Family profiles</h1>
        <p class="soft">
          What each kind of equipment is, as data: a new kind needs a profile, not a new program.
        </p>
      </div>
      <div class="acts">
        <NButton type="primary" @click="router.push({ name: 'teach' })">Teach a new kind</NButton>
        <NButton @click="writeWhole">Write a whole profile</NButton>
        <FilePick label="Profile file" accept="application/json,.json" @picked="take">
          <NButton>Import profile</NButton>
        </FilePick>
      </div>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="refused" role="alert" class="mb-3 text-stop font-600">{{ refused }} Nothing was kept.</p>
    <ListTable
      v-if="bench.families"
      :rows="rows"
      :columns="columns"
      :key-of="({ family }) => family.id"
      label="Family profiles"
    >
      <template #family="{ row }">
        <RouterLink :to="{ name: 'family', params: { id: row.family.id } }">{{ row.family.name }}</RouterLink>
        <small>{{ row.family.summary }}</small>
      </template>
      <template #hardware="{ row }">
        {{
          [
            ...new Set(
              row.family.hardware.revisions.map(({ identifiedBy }) => identifiedBy.by.replace('-', ' ')),
            ),
          ].join(', ')
        }}
        <small>{{ row.family.hardware.revisions.map(({ name }) => name).join(', ') }}</small>
      </template>
      <template #components="{ row }">
        {{
          row.components.length > 2
            ? `${row.components.length}: ${row.components[0]} …`
            : row.components.join(', ')
        }}
      </template>
      <template #links="{ row }">{{ row.links.join(', ') }}</template>
      <template #units="{ row }"> {{ row.units }}<small>revision {{ row.family.revision }}</small> </template>
    </ListTable>
    <p v-else-if="!problem" class="soft" role="status">Loading…</p>
  </div>
</template>
