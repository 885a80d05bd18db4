<script setup lang="ts">
import type { Family } from '@bench-wake/core/family'
import { isProblem, readQuantity, type Measure } from '@bench-wake/core/kernel'
import type { BenchInputs } from '@bench-wake/core/ready'
import { NInput } from 'naive-ui'
import { inject, reactive } from 'vue'
import { benchDesk } from './bench-inputs'

/** A generator that feeds the unit's own charger (PRACTICE D11): its share, its frequency, its thresholds. */
const { power } = defineProps<{ power: Family['power'] }>()
const { say, keep } = inject(benchDesk)!
type Say = NonNullable<NonNullable<BenchInputs['generator']>>

const fields = [
  { id: 'watts', label: 'Generator gives', measure: 'watts', hint: '1 kW, or leave it empty' },
  { id: 'amps', label: 'Charge current of each inverter', measure: 'amps', hint: '10 A, or 10 A; 15 A' },
  {
    id: 'hertz',
    label: 'Frequency at the input',
    measure: 'hertz',
    hint: `${power.inverter?.systemHertz ?? 50} Hz`,
  },
  { id: 'startVolts', label: 'It starts below', measure: 'volts', hint: '49 V' },
  { id: 'stopVolts', label: 'It stops above', measure: 'volts', hint: '54 V' },
] as const satisfies readonly { id: string; label: string; measure: Measure; hint: string }[]
type FieldId = (typeof fields)[number]['id']

const known = say.generator
const text = (value: number | null | undefined, unit: string) =>
  value === null || value === undefined ? '' : `${value} ${unit}`
const typed = reactive<Record<FieldId, string>>({
  watts: text(known?.watts, 'W'),
  amps: known?.chargeAmps.map((amps) => `${amps} A`).join('; ') ?? '',
  hertz: text(known?.hertz, 'Hz'),
  startVolts: text(known?.startVolts, 'V'),
  stopVolts: text(known?.stopVolts, 'V'),
})
const faults = reactive<Partial<Record<FieldId, string>>>({})

function read(id: FieldId, written: string, measure: Measure): number {
  return readQuantity(written, measure, { field: id, min: 0, max: id === 'watts' ? 1e7 : 5000 })
}
function change() {
  const figures: Partial<Record<FieldId, number[]>> = {}
  for (const { id, measure } of fields) {
    delete faults[id]
    if (typed[id].trim() === '') continue
    try {
      const parts = id === 'amps' ? typed[id].split(';') : [typed[id]]
      figures[id] = parts.filter((part) => part.trim()).map((part) => read(id, part, measure))
    } catch (error) {
      faults[id] = isProblem(error) ? `${error.facts.says}, ${error.facts.expected}` : String(error)
    }
  }
  if (Object.keys(faults).length > 0) return
  const [watts] = figures.watts ?? []
  const said: Say | null =
    watts && figures.amps?.length
      ? {
          watts,
          chargeAmps: figures.amps,
          hertz: figures.hertz?.[0] ?? null,
          startVolts: figures.startVolts?.[0] ?? null,
          stopVolts: figures.stopVolts?.[0] ?? null,
        }
      : null
  say.generator = said
  keep('generator')
}
</script>

<template>
  <details :open="known !== null && known !== undefined">
    <summary class="fold">A generator feeds it</summary>
    <p class="small soft">
      Charger amps are amps at battery volts: 10 A at {{ power.nominalVolts }} V is
      {{ 10 * power.nominalVolts }} W into the battery. Every inverter on the generator counts.
    </p>
    <div class="grid my-2 gap-3.5 fill-200 items-start">
      <label v-for="field in fields" :key="field.id" class="field"
        >{{ field.label }}
        <NInput
          v-model:value="typed[field.id]"
          :placeholder="field.hint"
          class="mono"
          v-bind="faults[field.id] ? { status: 'error' as const } : {}"
          :input-props="{ 'aria-label': field.label }"
          @update:value="change"
        />
        <small v-if="faults[field.id]" class="fault">{{ faults[field.id] }}</small>
      </label>
    </div>
  </details>
</template>
