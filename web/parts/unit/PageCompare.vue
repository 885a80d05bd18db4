<script setup lang="ts">
import type { FamilyDocument } from '@bench-wake/core/family'
import { compareSnapshots } from '@bench-wake/core/proof'
import type { KeptSnapshot } from '@bench-wake/server'
import { computed, ref } from 'vue'
import ComparedTable from '../ComparedTable.vue'
import { sourceWords, whenText } from '../words'

/** Any two pages of a unit, line by line: what had to change, what must not, what may (PRACTICE A1). */
const { snapshots, family } = defineProps<{ snapshots: KeptSnapshot[]; family: FamilyDocument }>()
const before = ref(1)
const after = ref(0)
const rows = computed(() => {
  const [older, newer] = [snapshots[before.value], snapshots[after.value]]
  return older && newer ? compareSnapshots(family, older, newer) : []
})
const says = (page: KeptSnapshot) => `${whenText(page.at)}, ${sourceWords[page.source]}`
</script>

<template>
  <div class="choose">
    <label
      >Before
      <select v-model.number="before" class="native">
        <option v-for="(page, index) in snapshots" :key="index" :value="index">{{ says(page) }}</option>
      </select></label
    >
    <label
      >After
      <select v-model.number="after" class="native">
        <option v-for="(page, index) in snapshots" :key="index" :value="index">{{ says(page) }}</option>
      </select></label
    >
  </div>
  <ComparedTable v-if="rows.length" :rows="rows" />
  <p v-else class="soft">The two pages have no line in common.</p>
</template>

<style scoped>
.choose {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
  margin: 8px 0 12px;
}
label {
  display: grid;
  gap: 4px;
  font-size: 13px;
  color: var(--soft);
}
@media (max-width: 700px) {
  .choose {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
