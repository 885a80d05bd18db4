<script setup lang="ts">
import { beginFamily, inTodaysForm } from '@bench-wake/core/family'
import { NButton } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import FilePick from '../parts/FilePick.vue'
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
    <p v-if="refused" role="alert" class="refused">{{ refused }} Nothing was kept.</p>
    <table v-if="bench.families" v-columns class="list">
      <thead>
        <tr>
          <th style="width: 34%">Family</th>
          <th>Hardware identified by</th>
          <th>Components</th>
          <th>Links</th>
          <th>Units</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ family, units, components, links } in rows" :key="family.id" class="leads">
          <td>
            <RouterLink :to="{ name: 'family', params: { id: family.id } }">{{ family.name }}</RouterLink>
            <small>{{ family.summary }}</small>
          </td>
          <td>
            {{
              [
                ...new Set(
                  family.hardware.revisions.map(({ identifiedBy }) => identifiedBy.by.replace('-', ' ')),
                ),
              ].join(', ')
            }}
            <small>{{ family.hardware.revisions.map(({ name }) => name).join(', ') }}</small>
          </td>
          <td>
            {{ components.length > 2 ? `${components.length}: ${components[0]} …` : components.join(', ') }}
          </td>
          <td>{{ links.join(', ') }}</td>
          <td>
            {{ units }}<small>revision {{ family.revision }}</small>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="!problem" class="soft" role="status">Loading…</p>
  </div>
</template>

<style scoped>
.refused {
  color: var(--stop);
  font-weight: 600;
  margin-bottom: 12px;
}
</style>
