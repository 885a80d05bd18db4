<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { compareSnapshots } from '@bench-wake/core/proof'
import type { KeptSnapshot } from '@bench-wake/server'
import { computed, ref } from 'vue'
import ComparedTable from '../ComparedTable.vue'
import PickOne from '../PickOne.vue'
import { sourceWords } from '../words'
import { whenText } from '../written'

/** Any two pages of a unit, line by line: what had to change, what must not, what may (PRACTICE A1). */
const { snapshots, family } = defineProps<{ snapshots: KeptSnapshot[]; family: FamilyDocument }>()
/** The two newest pages from one place, where there are two such. */
const after = ref(
  Math.max(
    0,
    snapshots.findIndex(({ source }, index) =>
      snapshots.slice(index + 1).some((older) => older.source === source),
    ),
  ),
)
const likeIt = snapshots.findIndex(
  ({ source }, index) => index > after.value && source === snapshots[after.value]?.source,
)
const before = ref(likeIt < 0 ? after.value + 1 : likeIt)
const rows = computed(() => {
  const [older, newer] = [snapshots[before.value], snapshots[after.value]]
  return older && newer ? compareSnapshots(family, older, newer) : []
})
const pages = computed(() =>
  snapshots.map(({ at, source }, value) => ({ value, label: `${whenText(at)}, ${sourceWords[source]}` })),
)
</script>

<template>
  <div class="grid mt-2 mb-3 gap-3 grid-cols-[repeat(2,minmax(0,1fr))] phone:grid-cols-1">
    <div class="field grid-cols-1">
      <span>Before</span>
      <PickOne v-model:value="before" label="Before" :options="pages" />
    </div>
    <div class="field grid-cols-1">
      <span>After</span>
      <PickOne v-model:value="after" label="After" :options="pages" />
    </div>
  </div>
  <ComparedTable v-if="rows.length" :rows="rows" />
  <p v-else class="soft">The two pages have no line in common.</p>
</template>
