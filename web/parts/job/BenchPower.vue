<script setup lang="ts">
import type { Family, FamilyDocument } from '@bench-wake/core/family'
import { isProblem, readQuantity, type Measure } from '@bench-wake/core/kernel'
import { chargerVoltsOf, chemistryFacts, judgeJobPower, setupOf, type BenchSay } from '@bench-wake/core/ready'
import type { JobView } from '@bench-wake/server'
import { useDebounceFn } from '@vueuse/core'
import { NInput } from 'naive-ui'
import { computed, defineAsyncComponent, reactive, ref } from 'vue'
import { api, got } from '../../stores/api'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'

const SupplyChart = defineAsyncComponent(() => import('./SupplyChart.vue'))

/** The supply of this job: judged here at every key, by the same function as on the server. */
const { view, family, metered } = defineProps<{
  view: JobView
  family: FamilyDocument
  /** Volts that a meter shows; null where none is joined. */
  metered: number | null
}>()
const emit = defineEmits<{ said: [] }>()
const say = reactive<BenchSay>(JSON.parse(JSON.stringify(view.bench)) as BenchSay)
const saving = useAsked()
const faults = reactive<Record<string, string>>({})
const power = computed(() => family.power as Family['power'])
const setup = computed(() => setupOf(power.value, say))
const answer = computed(() => judgeJobPower(power.value, say, view.stretches, metered))
const figures = computed(() => {
  const numbers = answer.value?.gate.numbers
  const course = answer.value?.course
  if (!numbers || !course) return []
  const minutes = answer.value!.minutesToFloor
  return [
    { label: 'now', value: `${course.nowVolts.toFixed(2)} V` },
    {
      label: 'lowest',
      value: `${course.lowestVolts.toFixed(2)} V`,
      low: course.lowestVolts < power.value.floorVolts,
    },
    {
      label: 'at the last byte',
      value: `${course.lastByteVolts.toFixed(2)} V`,
      low: course.lastByteVolts < power.value.floorVolts,
    },
    { label: 'until the floor', value: minutes === null ? 'over 12 h' : `${Math.round(minutes)} min` },
  ]
})

/** What is typed while the last word is still on its way is sent behind it. */
let again = false
const keep = useDebounceFn(async () => {
  if (saving.busy.value) {
    again = true
    return
  }
  do {
    again = false
    await saving.ask(async () => {
      const json = JSON.parse(JSON.stringify(say)) as BenchSay
      await got(api.jobs[':id'].bench.$put({ param: { id: view.job.id }, json }))
    })
  } while (again)
  emit('said')
}, 250)
function typed(
  field: string,
  text: string,
  measure: Measure,
  take: (value: number | undefined) => void,
  limits: { least?: number; most?: number } = { least: 0 },
) {
  delete faults[field]
  try {
    take(text.trim() === '' ? undefined : readQuantity(text, measure, { field, ...limits }))
    void keep()
  } catch (error) {
    // What does not read changes nothing; the field says why.
    faults[field] = isProblem(error) ? `${error.facts.says}, ${error.facts.expected}` : String(error)
  }
}
const shed = (id: string, off: boolean) => {
  const before = say.shed ?? []
  say.shed = off ? [...before, id] : before.filter((each) => each !== id)
  void keep()
}
const measured = (value: number | undefined) => {
  say.measured =
    value === undefined ? null : { volts: value, shed: [...(say.shed ?? [])], charger: say.charger ?? null }
}
const charger = (amps: number | undefined) => {
  const volts = setup.value
    ? Math.min(power.value.ceilingVolts, chargerVoltsOf(setup.value))
    : power.value.ceilingVolts
  say.charger = amps ? { amps, volts } : null
}
const laptop = (onMains: boolean) => {
  say.laptop = { onMains, minutesLeft: say.laptop?.minutesLeft ?? null }
  void keep()
}
const minutes = (ms: number | undefined) => {
  say.laptop = { onMains: say.laptop?.onMains ?? false, minutesLeft: ms === undefined ? null : ms / 60_000 }
}
const start = reactive({
  volts: say.measured ? `${say.measured.volts} V` : '',
  charger: say.charger ? `${say.charger.amps} A` : '',
  capacity: say.capacityAh === undefined ? '' : `${say.capacityAh} Ah`,
  celsius: say.celsius === undefined ? '' : `${say.celsius} °C`,
  laptop: typeof say.laptop?.minutesLeft !== 'number' ? '' : `${say.laptop.minutesLeft} min`,
})
/** What the browser tells of this computer's battery, where it does. */
const told = ref<string | null>(null)
type Battery = { charging: boolean; level: number; dischargingTime: number }
const ask = (navigator as unknown as { getBattery?: () => Promise<Battery> }).getBattery
if (ask && !say.laptop) {
  void ask.call(navigator).then(
    ({ charging, level, dischargingTime }) => {
      const left = Number.isFinite(dischargingTime) ? `, ${Math.round(dischargingTime / 60)} min left` : ''
      told.value = `This computer says: ${charging ? 'on mains' : 'on battery'}, ${Math.round(level * 100)} %${left}.`
    },
    () => {},
  )
}
</script>

<template>
  <section class="supply" aria-label="Supply">
    <h3>Supply, over the run</h3>
    <div class="inputs">
      <label v-if="metered === null"
        >Measured at the unit’s terminals
        <NInput
          v-model:value="start.volts"
          placeholder="12.4 V"
          class="mono"
          v-bind="faults['volts'] ? { status: 'error' as const } : {}"
          :input-props="{ inputmode: 'decimal', 'aria-label': 'Measured at the unit’s terminals' }"
          @update:value="typed('volts', $event, 'volts', measured, { least: 0, most: 1000 })"
        />
        <small v-if="faults['volts']" class="fault">{{ faults['volts'] }}</small>
        <small v-else-if="say.measured" class="soft"
          >measured with {{ say.measured.shed.length ? 'loads shed' : 'all loads on'
          }}{{ say.measured.charger ? ', charger on' : '' }}</small
        >
      </label>
      <p v-else class="metered">
        Meter: <b class="mono">{{ metered.toFixed(2) }} V</b>
      </p>
      <template v-if="setup">
        <label v-if="chemistryFacts[setup.source.chemistry].restVolts"
          >Charger on the battery
          <NInput
            v-model:value="start.charger"
            placeholder="none, or 5 A"
            class="mono"
            :input-props="{ 'aria-label': 'Charger on the battery' }"
            @update:value="typed('charger', $event, 'amps', charger, { least: 0, most: 500 })"
          />
          <small v-if="faults['charger']" class="fault">{{ faults['charger'] }}</small>
          <small v-else-if="answer?.smallestChargerAmps" class="soft"
            >{{ answer.smallestChargerAmps }} A would hold it</small
          >
        </label>
      </template>
    </div>
    <ul v-if="setup?.loads.length" class="loads">
      <li v-for="load in setup.loads" :key="load.id">
        <label>
          <input
            type="checkbox"
            :checked="load.off"
            @change="shed(load.id, ($event.target as HTMLInputElement).checked)"
          />
          <span
            >{{ load.name }}, {{ load.amps }} A: <b>{{ load.shed }}</b></span
          >
        </label>
      </li>
    </ul>
    <template v-if="answer?.course">
      <dl class="figures">
        <div
          v-for="figure in figures"
          :key="figure.label"
          :class="{ low: figure.low }"
          :data-figure="figure.label"
        >
          <dt>{{ figure.label }}</dt>
          <dd>{{ figure.value }}</dd>
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
      <summary>What feeds it, and the laptop</summary>
      <div v-if="setup" class="inputs">
        <p class="soft">
          {{ chemistryFacts[setup.source.chemistry].name
          }}<template v-if="setup.source.cells > 1">, {{ setup.source.cells }} cells</template>
        </p>
        <label v-if="chemistryFacts[setup.source.chemistry].restVolts"
          >Capacity
          <NInput
            v-model:value="start.capacity"
            :placeholder="`${setup.source.capacityAh} Ah`"
            class="mono"
            @update:value="
              typed(
                'capacity',
                $event,
                'ampere-hours',
                (value) => (value === undefined ? delete say.capacityAh : (say.capacityAh = value)),
                { least: 0.1, most: 20000 },
              )
            "
          />
          <small v-if="faults['capacity']" class="fault">{{ faults['capacity'] }}</small></label
        >
        <label
          >Temperature
          <NInput
            v-model:value="start.celsius"
            placeholder="20 °C or 68 °F"
            class="mono"
            @update:value="
              typed(
                'celsius',
                $event,
                'celsius',
                (value) => (value === undefined ? delete say.celsius : (say.celsius = value)),
                { least: -60, most: 90 },
              )
            "
          />
          <small v-if="faults['celsius']" class="fault">{{ faults['celsius'] }}</small></label
        >
      </div>
      <div class="inputs">
        <label class="check"
          ><input
            type="checkbox"
            :checked="say.laptop?.onMains ?? false"
            @change="laptop(($event.target as HTMLInputElement).checked)"
          />
          The laptop is on mains</label
        >
        <label v-if="!say.laptop?.onMains"
          >Its battery lasts
          <NInput
            v-model:value="start.laptop"
            placeholder="90 min"
            class="mono"
            @update:value="
              typed('laptop', /\d\s*$/.test($event) ? `${$event} min` : $event, 'milliseconds', minutes, {
                least: 0,
                most: 6e8,
              })
            "
          />
          <small v-if="faults['laptop']" class="fault">{{ faults['laptop'] }}</small></label
        >
        <p v-if="told" class="soft">{{ told }}</p>
      </div>
      <p class="small soft">
        Sleep and screen saver off, lid open, updates paused, network off unless the run needs it.
      </p>
    </details>
    <ProblemNote v-if="saving.problem.value" :problem="saving.problem.value" />
  </section>
</template>

<style scoped>
.supply {
  border-top: 1px solid var(--hair);
  margin-top: 12px;
  padding-top: 14px;
}
.inputs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
  gap: 14px;
  align-items: start;
  margin: 8px 0;
}
.inputs label {
  display: grid;
  gap: 4px;
  font-size: 13px;
  color: var(--soft);
}
.inputs .check {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
  font-size: 15px;
  color: var(--ink);
}
.metered {
  font-size: 18px;
  padding-top: 10px;
}
.loads {
  list-style: none;
  margin: 6px 0;
  padding: 0;
}
.loads label {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 44px;
  cursor: pointer;
}
input[type='checkbox'] {
  width: 22px;
  height: 22px;
  accent-color: var(--brass);
}
.figures {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 12px;
  margin: 12px 0 4px;
}
.figures dt {
  font-size: 13px;
  color: var(--soft);
}
.figures dd {
  margin: 0;
  font-size: 24px;
  font-weight: 650;
}
.figures .low dd {
  color: var(--stop);
}
.fault {
  color: var(--stop);
  font-weight: 600;
}
summary {
  min-height: 44px;
  line-height: 44px;
  cursor: pointer;
}
@media (max-width: 700px) {
  .figures {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
