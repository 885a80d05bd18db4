<script setup lang="ts">
import type { WorkshopRules } from '@bench-wake/core/fit'
import type { KeptPolicy } from '@bench-wake/server'
import { NButton, NInput, NRadio, NRadioGroup } from 'naive-ui'
import { computed, onMounted, reactive, ref, shallowRef } from 'vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useLook } from '../stores/look'
import { dayText } from '../parts/written'

const look = useLook()
const kept = shallowRef<KeptPolicy | null>(null)
const form = reactive<Required<WorkshopRules>>({
  update: 'cure',
  hops: 'sequential',
  adapters: 'any',
  backup: 'family',
})
const name = ref(look.name)
const { busy, problem, ask } = useAsked()

const take = (policy: KeptPolicy) => {
  kept.value = policy
  const { update, hops, adapters, backup = 'family' } = policy
  Object.assign(form, { update, hops, adapters, backup })
}
onMounted(() => ask(async () => take(await got<KeptPolicy>(api['workshop-rules'].$get()))))
const changed = computed(
  () =>
    kept.value !== null &&
    (kept.value.update !== form.update ||
      kept.value.hops !== form.hops ||
      kept.value.adapters !== form.adapters ||
      (kept.value.backup ?? 'family') !== form.backup),
)
const keep = () =>
  ask(async () => {
    look.name = name.value.trim()
    take(
      await got<KeptPolicy>(
        api['workshop-rules'].$put({ json: { policy: { ...form }, by: name.value.trim() } }),
      ),
    )
  }, 'The rules are kept: from now on every job is judged by them.')

const choices = [
  {
    key: 'update',
    asks: 'When is a unit updated?',
    answers: [
      [
        'cure',
        'Only to cure something',
        'A working unit is left alone. A job without a named fault or feature is held.',
      ],
      ['current', 'To keep everything current', 'The newest production release goes on at the next visit.'],
    ],
  },
  {
    key: 'hops',
    asks: 'When a unit is several releases behind, and its family leaves it open?',
    answers: [
      ['sequential', 'Every release in order', 'None is skipped: 5.1, then 5.2.0, then 5.2.1.'],
      ['direct', 'Straight to the newest', 'Mandatory versions that a family names are still taken.'],
    ],
  },
  {
    key: 'adapters',
    asks: 'Which adapter may be used?',
    answers: [
      ['any', 'Any decent one', 'Try what you have; the record keeps which it was.'],
      ['own', 'The maker’s own part', 'Anything else is held until somebody answers for it.'],
    ],
  },
  {
    key: 'backup',
    asks: 'When is the original read out before the first write?',
    answers: [
      [
        'family',
        'Where every unit holds its own image',
        'Where the same image can be had again, none is made.',
      ],
      ['always', 'Wherever the link can read', 'It takes its time, twice; the plan shows how long.'],
    ],
  },
] as const
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Workshop rules</h1>
        <p class="soft">
          What holds where a family leaves it open. The family’s own rule wins; every judgement says which it
          applied.
        </p>
      </div>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <form v-if="kept" @submit.prevent="keep">
      <fieldset v-for="choice in choices" :key="choice.key" class="m-0 pt-4 pb-2 px-0 bare-border line-t">
        <legend class="mb-1.5 p-0 w-full text-lead font-650">{{ choice.asks }}</legend>
        <NRadioGroup v-model:value="form[choice.key]" :name="choice.key">
          <NRadio v-for="[id, says, means] in choice.answers" :key="id" :value="id">
            <b>{{ says }}</b><small class="soft block small">{{ means }}</small>
          </NRadio>
        </NRadioGroup>
      </fieldset>
      <p class="small soft">
        {{ kept.by ? `Set by ${kept.by}, ${dayText(kept.at!)}.` : 'As it comes; nobody has set it yet.' }}
      </p>
      <div class="acts grid mt-4 gap-3 grid-cols-[minmax(0,240px)_auto] justify-start">
        <NInput v-model:value="name" placeholder="Your name" :input-props="{ 'aria-label': 'Your name' }" />
        <NButton
          type="primary"
          size="large"
          attr-type="submit"
          :loading="busy"
          :disabled="!changed || !name.trim()"
          >Save</NButton
        >
      </div>
    </form>
    <p v-else-if="!problem" class="soft" role="status">Loading…</p>
  </div>
</template>

<style scoped>
legend {
  float: left;
}
.n-radio-group {
  display: grid;
  gap: 8px;
  clear: both;
}
.n-radio {
  min-height: 44px;
}
</style>
