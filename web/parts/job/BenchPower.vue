<script setup lang="ts">
import { supplyKinds, type Family, type FamilyDocument } from '@bench-wake/core/family'
import { isProblem, readQuantity, type Measure } from '@bench-wake/core/kernel'
import {
  chargerVoltsOf,
  chemistryFacts,
  isChargeable,
  judgeJobPower,
  setupOf,
  type BenchInputs,
} from '@bench-wake/core/ready'
import type { JobView } from '@bench-wake/server'
import { NCheckbox, NInput } from 'naive-ui'
import { computed, defineAsyncComponent, inject, reactive, toRaw } from 'vue'
import PickOne from '../PickOne.vue'
import BenchGenerator from './BenchGenerator.vue'
import { benchDesk } from './bench-inputs'
import { agoText, asTyped, fixed, written } from '../written'

const SupplyChart = defineAsyncComponent(() => import('./SupplyChart.vue'))

/** The supply of this job: judged here at every key, by the same function as on the server. */
const { view, family, metered } = defineProps<{
  view: JobView
  family: FamilyDocument
  /** Volts that a meter shows; null where none is joined. */
  metered: number | null
}>()
const { say, said, keep } = inject(benchDesk)!
const faults = reactive<Record<string, string>>({})
const power = computed(() => family.power as Family['power'])
const setup = computed(() => setupOf(power.value, said.value))
// Each figure is read thousands of times: not through what watches it.
const answer = computed(() => judgeJobPower(toRaw(family), said.value, toRaw(view.stretches), metered))
const figures = computed(() => {
  const numbers = answer.value?.gate.numbers
  const course = answer.value?.course
  if (!numbers || !course) return []
  const minutes = answer.value!.minutesToFloor
  return [
    { label: 'now', value: `${fixed(course.nowVolts, 2)} V` },
    {
      label: 'lowest',
      value: `${fixed(course.lowestVolts, 2)} V`,
      low: course.lowestVolts < power.value.floorVolts,
    },
    {
      label: 'at the last byte',
      value: `${fixed(course.lastByteVolts, 2)} V`,
      low: course.lastByteVolts < power.value.floorVolts,
    },
    { label: 'until the floor', value: minutes === null ? 'over 12 h' : `${Math.round(minutes)} min` },
  ]
})

function typed(
  part: keyof BenchInputs,
  field: string,
  text: string,
  measure: Measure,
  take: (value: number | undefined) => void,
  limits: { min?: number; max?: number } = { min: 0 },
) {
  delete faults[field]
  try {
    take(text.trim() === '' ? undefined : readQuantity(asTyped(text, measure), measure, { field, ...limits }))
    keep(part)
  } catch (error) {
    // What does not read changes nothing; the field says why.
    faults[field] = isProblem(error) ? `${error.facts.says}, ${error.facts.expected}` : String(error)
  }
}
const shed = (id: string, off: boolean) => {
  const before = say.shed ?? []
  say.shed = off ? [...before, id] : before.filter((each) => each !== id)
  keep('shed')
}
const measured = (value: number | undefined) => {
  say.measured =
    value === undefined ? null : { volts: value, shed: [...(say.shed ?? [])], charger: say.charger ?? null }
}
/** What the unit's own page says of its supply, taken as the measurement. */
const takeSaid = () => {
  const { volts } = view.supplySaid!
  start.volts = `${volts} V`
  measured(volts)
  keep('measured')
}
const charger = (amps: number | undefined) => {
  const volts = setup.value
    ? Math.min(power.value.ceilingVolts, chargerVoltsOf(setup.value) ?? Infinity)
    : power.value.ceilingVolts
  say.charger = amps ? { amps, volts } : null
}
const kind = (chemistry: NonNullable<BenchInputs['chemistry']>) => {
  say.chemistry = chemistry
  keep('chemistry')
}
const start = reactive({
  cells: say.cells === undefined ? '' : String(say.cells),
  setVolts: typeof say.setVolts !== 'number' ? '' : `${say.setVolts} V`,
  volts: say.measured ? `${say.measured.volts} V` : '',
  charger: say.charger ? `${say.charger.amps} A` : '',
  capacity: typeof say.capacityAh !== 'number' ? '' : `${say.capacityAh} Ah`,
  celsius: typeof say.celsius !== 'number' ? '' : written(`${say.celsius} °C`),
  metres: say.lead ? `${say.lead.metres} m` : '',
  section: say.lead ? `${say.lead.squareMillimetres} mm2` : '',
})
/** Both figures of a lead make its ohms; one alone says nothing yet. */
const lead = reactive({
  metres: say.lead?.metres as number | undefined,
  section: say.lead?.squareMillimetres as number | undefined,
})
const measuredLead = (part: keyof typeof lead) => (value: number | undefined) => {
  lead[part] = value
  const { metres, section } = lead
  say.lead = metres !== undefined && section !== undefined ? { metres, squareMillimetres: section } : null
}
</script>

<template>
  <section class="supply pt-0.5" aria-label="Supply">
    <div class="inputs grid my-2 gap-3.5 fill-200 items-start">
      <label v-if="metered === null"
        >Measured {{ power.measure?.at ?? 'at the unit’s terminals' }}
        <NInput
          v-model:value="start.volts"
          :placeholder="`${fixed(power.nominalVolts, 1)} V`"
          class="mono"
          v-bind="faults['volts'] ? { status: 'error' as const } : {}"
          :input-props="{ inputmode: 'decimal', 'aria-label': 'Measured at the unit’s terminals' }"
          @update:value="typed('measured', 'volts', $event, 'volts', measured, { min: 0, max: 1000 })"
        />
        <small v-if="faults['volts']" class="fault">{{ faults['volts'] }}</small>
        <small v-else-if="view.supplySaid && say.measured?.volts !== view.supplySaid.volts" class="soft"
          >The unit says {{ fixed(view.supplySaid.volts, 2) }} V, read {{ agoText(view.supplySaid.at) }}.
          <button class="textlike" type="button" @click="takeSaid">Take that</button></small
        >
        <small v-else-if="say.measured" class="soft"
          >measured with {{ say.measured.shed.length ? 'loads shed' : 'all loads on'
          }}{{ say.measured.charger ? ', charger on' : '' }}</small
        >
      </label>
      <p v-else class="pt-2.5 text-lead">Meter: <b class="mono">{{ fixed(metered, 2) }} V</b></p>
      <template v-if="setup">
        <label v-if="isChargeable(setup.source.chemistry)"
          >Charger on the battery
          <NInput
            v-model:value="start.charger"
            placeholder="none, or 5 A"
            class="mono"
            :input-props="{ 'aria-label': 'Charger on the battery' }"
            @update:value="typed('charger', 'charger', $event, 'amps', charger, { min: 0, max: 500 })"
          />
          <small v-if="faults['charger']" class="fault">{{ faults['charger'] }}</small>
          <small v-else-if="answer?.smallestChargerAmps" class="soft"
            >{{ answer.smallestChargerAmps }} A would hold it</small
          >
        </label>
      </template>
    </div>
    <ul v-if="setup?.loads.length" class="loads my-1.5 mx-0 p-0 list-none">
      <li v-for="load in setup.loads" :key="load.id">
        <NCheckbox :checked="load.off" @update:checked="shed(load.id, $event)"
          >{{ load.name }}, {{ load.amps }} A: <b>{{ load.shed }}</b></NCheckbox
        >
      </li>
    </ul>
    <template v-if="answer?.course">
      <dl class="figures grid mt-3 mb-1 mx-0 gap-3 grid-cols-[repeat(4,1fr)] phone:grid-cols-[1fr_1fr]">
        <div
          v-for="figure in figures"
          :key="figure.label"
          :class="{ low: figure.low }"
          :data-figure="figure.label"
        >
          <dt class="small soft">{{ figure.label }}</dt>
          <dd class="m-0 text-large font-650">{{ figure.value }}</dd>
        </div>
      </dl>
      <SupplyChart
        :course="answer.course"
        :stretches="view.stretches"
        :floor-volts="power.floorVolts"
        :ceiling-volts="power.ceilingVolts"
      />
    </template>
    <details>
      <summary class="fold">What feeds it</summary>
      <div v-if="setup" class="inputs grid my-2 gap-3.5 fill-200 items-start">
        <div class="field">
          <span>Kind</span>
          <PickOne
            label="Kind of supply"
            :value="setup.source.chemistry"
            :options="supplyKinds.map((each) => ({ value: each, label: chemistryFacts[each].name }))"
            @update:value="kind"
          />
        </div>
        <label v-if="chemistryFacts[setup.source.chemistry].restVolts"
          >Cells in series
          <NInput
            v-model:value="start.cells"
            :placeholder="String(setup.source.cells || 'not known')"
            class="mono"
            @update:value="
              typed('cells', 'cells', $event, 'count', (value) => value && (say.cells = Math.round(value)), {
                min: 1,
                max: 400,
              })
            "
          />
          <small v-if="faults['cells']" class="fault">{{ faults['cells'] }}</small></label
        >
        <label v-else
          >It holds
          <NInput
            v-model:value="start.setVolts"
            :placeholder="`${setup.source.setVolts ?? power.nominalVolts} V`"
            class="mono"
            @update:value="
              typed('setVolts', 'setVolts', $event, 'volts', (value) => (say.setVolts = value ?? null), {
                min: 0,
                max: 1000,
              })
            "
          />
          <small v-if="faults['setVolts']" class="fault">{{ faults['setVolts'] }}</small></label
        >
        <label v-if="chemistryFacts[setup.source.chemistry].restVolts"
          >Capacity
          <NInput
            v-model:value="start.capacity"
            :placeholder="`${setup.source.capacityAh} Ah`"
            class="mono"
            @update:value="
              typed(
                'capacityAh',
                'capacity',
                $event,
                'ampere-hours',
                (value) => (say.capacityAh = value ?? null),
                { min: 0.1, max: 20000 },
              )
            "
          />
          <small v-if="faults['capacity']" class="fault">{{ faults['capacity'] }}</small></label
        >
        <label
          >Temperature
          <NInput
            v-model:value="start.celsius"
            :placeholder="written('20 °C')"
            class="mono"
            @update:value="
              typed('celsius', 'celsius', $event, 'celsius', (value) => (say.celsius = value ?? null), {
                min: -60,
                max: 90,
              })
            "
          />
          <small v-if="faults['celsius']" class="fault">{{ faults['celsius'] }}</small></label
        >
        <label
          >Lead to it, one way
          <NInput
            v-model:value="start.metres"
            placeholder="3 m or 10 ft"
            class="mono"
            :input-props="{ 'aria-label': 'Lead to it, one way' }"
            @update:value="
              typed('lead', 'metres', $event, 'metres', measuredLead('metres'), { min: 0, max: 1000 })
            "
          />
          <small v-if="faults['metres']" class="fault">{{ faults['metres'] }}</small></label
        >
        <label
          >Its cross-section
          <NInput
            v-model:value="start.section"
            placeholder="2.5 mm2 or 14 AWG"
            class="mono"
            :input-props="{ 'aria-label': 'Its cross-section' }"
            @update:value="
              typed('lead', 'section', $event, 'square-millimetres', measuredLead('section'), {
                min: 0.01,
                max: 1000,
              })
            "
          />
          <small v-if="faults['section']" class="fault">{{ faults['section'] }}</small></label
        >
      </div>
    </details>
    <BenchGenerator v-if="power.inverter || say.generator" :power="power" />
  </section>
</template>

<style scoped>
.inputs label {
  display: grid;
  gap: 4px;
  font-size: 13px;
  color: var(--soft);
}
.loads .n-checkbox {
  align-items: center;
  min-height: 44px;
}
.figures .low dd {
  color: var(--stop);
}
</style>
