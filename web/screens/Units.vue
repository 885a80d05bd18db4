<script setup lang="ts">
import { versionsText } from '@bench-wake/core/unit'
import { NButton, NInput } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { whenText } from '../parts/words'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'

const bench = useBench()
const router = useRouter()
const { busy, problem, ask } = useAsked()
const adding = ref(false)
const form = reactive({ name: '', place: '', serial: '', familyId: '' })

onMounted(() =>
  ask(async () => {
    await Promise.all([bench.loadUnits(), bench.loadFamilies()])
    form.familyId = bench.families?.[0]?.id ?? ''
  }),
)
const familyName = computed(() => new Map((bench.families ?? []).map(({ id, name }) => [id, name])))

const familyOptions = computed(() =>
  (bench.families ?? []).map(({ id, name }) => ({ value: id, label: name })),
)

const add = () =>
  ask(async () => {
    const { id } = await got<{ id: string }>(api.units.$post({ json: { ...form } }))
    await router.push({ name: 'unit', params: { id } })
  })
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Units</h1>
      <NButton v-if="!adding" @click="adding = true">Add a unit</NButton>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <form v-if="adding" class="form" @submit.prevent="add">
      <div class="field">
        <span>What it is</span>
        <PickOne v-model:value="form.familyId" label="What it is" :options="familyOptions" filterable />
      </div>
      <label>Name <NInput v-model:value="form.name" placeholder="Fog signal 12" /></label>
      <label>Place <NInput v-model:value="form.place" placeholder="Where it stands" /></label>
      <label>Serial <NInput v-model:value="form.serial" placeholder="As on the label" class="mono" /></label>
      <div class="acts">
        <NButton type="primary" attr-type="submit" :loading="busy">Add it</NButton>
        <NButton @click="adding = false">Cancel</NButton>
      </div>
    </form>
    <table v-if="bench.units?.length" v-columns class="list">
      <thead>
        <tr>
          <th style="width: 30%">Unit</th>
          <th>Serial</th>
          <th>Hardware</th>
          <th>Versions</th>
          <th>Last read</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="unit in bench.units" :key="unit.id" class="leads">
          <td>
            <RouterLink :to="{ name: 'unit', params: { id: unit.id } }">{{ unit.name }}</RouterLink>
            <small>{{ unit.place }} · {{ familyName.get(unit.familyId) ?? unit.familyId }}</small>
          </td>
          <td class="mono">{{ unit.serial }}</td>
          <td :class="{ soft: !unit.facts.hardware }">{{ unit.facts.hardware ?? 'not known' }}</td>
          <td :class="{ soft: !versionsText(unit.facts.versions) }">
            {{ versionsText(unit.facts.versions) || 'not known' }}
          </td>
          <td :class="{ soft: !unit.facts.readAt }">
            {{ unit.facts.readAt ? whenText(unit.facts.readAt) : 'never' }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="bench.units" class="soft">No unit yet. Add the first with the button above.</p>
    <p v-else-if="!problem" class="soft" role="status">Loading…</p>
  </div>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 16px;
  align-items: end;
  border-bottom: 1px solid var(--hair);
  padding-bottom: 22px;
  margin-bottom: 12px;
}
.field,
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
</style>
