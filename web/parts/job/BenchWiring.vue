<script setup lang="ts">
import type { Family } from '@bench-wake/core/family'
import type { WorkshopRules } from '@bench-wake/core/fit'
import { isProblem, readQuantity } from '@bench-wake/core/kernel'
import {
  adapterKindOf,
  faultOfWire,
  joinsOfPlug,
  linkOfJob,
  pairsOf,
  type Adapter,
  type WiringSay,
} from '@bench-wake/core/ready'
import { NCheckbox, NInput, NRadio, NRadioGroup } from 'naive-ui'
import { computed, inject, ref } from 'vue'
import PickOne from '../PickOne.vue'
import { benchDesk } from './bench-inputs'
import WiringPicture from './WiringPicture.vue'
import { written } from '../written'

/** The wiring of this job: drawn here, judged while it is drawn by the same function as on the server. */
const { family, adapters, workshopRules, jobId } = defineProps<{
  family: Family
  adapters: readonly Adapter[]
  workshopRules: WorkshopRules
  jobId: string
}>()
const desk = inject(benchDesk)!
const { keep } = desk
const link = computed(() => linkOfJob(family, desk.say.wiring))
/** What was drawn for a link that this unit does not have is no drawing of this one. */
const say = computed<WiringSay>(() =>
  desk.say.wiring?.linkId === link.value.id
    ? desk.say.wiring
    : { linkId: link.value.id, adapterId: null, joins: [] },
)
const set = (more: Partial<WiringSay>) => {
  desk.say.wiring = { ...say.value, ...more }
  keep('wiring')
}

const wiring = computed(() => link.value.wiring)
const wanted = computed(() => adapterKindOf(link.value))
const adapter = computed(() => adapters.find(({ id }) => id === say.value.adapterId))
/** Those of the right kind first; the others stay choosable, for the program says what is wrong with them. */
const sorted = computed(() => [
  ...adapters.filter(({ kind }) => kind === wanted.value),
  ...adapters.filter(({ kind }) => kind !== wanted.value),
])
const adapterOptions = computed(() => [
  { value: '', label: 'Choose the one on the bench' },
  ...sorted.value.map(({ id, name, standing, kind }) => ({
    value: id,
    label: `${name}${standing === 'bad' ? ' (known bad)' : ''}${kind === wanted.value ? '' : `, ${kind}`}`,
  })),
])
const faults = computed(() => {
  const found = new Map<string, string>()
  if (!adapter.value || !wiring.value) return found
  const wired = {
    link: link.value,
    wiring: wiring.value,
    adapter: adapter.value,
    say: say.value,
    workshopRules,
  }
  for (const pair of pairsOf(adapter.value, wiring.value, say.value)) {
    const fault = faultOfWire(wired, pair)
    if (fault) found.set(`${pair.adapter.id}\t${pair.target.id}`, fault)
  }
  return found
})

function chooseAdapter(id: string) {
  const next = adapters.find((each) => each.id === id)
  const joins = next && wiring.value ? (joinsOfPlug(next, wiring.value) ?? []) : []
  set({ adapterId: id || null, joins, level: null, feeding: false })
}
function toggle(from: string, to: string) {
  const joins = say.value.joins
  const there = joins.some(([one, two]) => one === from && two === to)
  set({ joins: there ? joins.filter(([one, two]) => !(one === from && two === to)) : [...joins, [from, to]] })
}

const typed = ref('')
const typedFault = ref<string | null>(null)
/** "TX 3": a wire for hands that rather type. */
function join() {
  const [from, to] = typed.value.trim().split(/\s*(?:-|–|>|,|\s)\s*/)
  const one = adapter.value?.pins.find(({ id }) => id.toLowerCase() === from?.toLowerCase())
  const two = wiring.value?.pins.find(({ id }) => id.toLowerCase() === to?.toLowerCase())
  if (!one || !two) {
    typedFault.value = `${one ? `The unit has no pin “${to ?? ''}”` : `The adapter has no pin “${from ?? ''}”`}; write one of each, for example “${adapter.value?.pins[0]?.id} ${wiring.value?.pins[0]?.id}”.`
    return
  }
  typedFault.value = null
  typed.value = ''
  toggle(one.id, two.id)
}
const ohms = ref(typeof say.value.ohms === 'number' ? `${say.value.ohms} ohm` : '')
const ohmsFault = ref<string | null>(null)
function measure(text: string) {
  ohmsFault.value = null
  try {
    set({
      ohms: text.trim() === '' ? null : readQuantity(text, 'ohms', { field: 'ohms', min: 0, max: 1e7 }),
    })
  } catch (error) {
    ohmsFault.value = isProblem(error) ? `${error.facts.says}, ${error.facts.expected}` : String(error)
  }
}
const contactOptions = [
  { value: 'plug', label: 'a plug' },
  { value: 'soldered', label: 'soldered' },
  { value: 'ribbon', label: 'a ribbon cable' },
  { value: 'held', label: 'held in holes' },
]
const notLooked = <T extends string | number>(value: T) => ({ value, label: 'not looked at' })
const fedOptions = [notLooked(''), { value: 'on', label: 'on' }, { value: 'off', label: 'off, or taken out' }]
const suppliesUnit = computed(
  () =>
    adapter.value?.pins.some(({ role }) => role === 'supply') === true &&
    wiring.value?.pins.some(({ role, open }) => role === 'supply' && !open) === true,
)
</script>

<template>
  <div class="pick grid mb-2 gap-3.5 fill-230 items-start">
    <div v-if="family.links.length > 1" class="field">
      <span>Over</span>
      <PickOne
        label="Link"
        :value="link.id"
        :options="family.links.map(({ id, name }) => ({ value: id, label: name }))"
        @update:value="set({ linkId: $event, adapterId: null, joins: [], ohms: null })"
      />
    </div>
    <div v-if="wiring" class="field">
      <span>Cable or adapter</span>
      <PickOne
        label="Cable or adapter"
        :value="say.adapterId ?? ''"
        :options="adapterOptions"
        :filterable="adapterOptions.length > 8"
        @update:value="chooseAdapter"
      />
    </div>
  </div>
  <p v-if="wanted === null" class="soft">Nothing is joined: the files are carried over.</p>
  <template v-if="wiring && adapter">
    <WiringPicture :adapter="adapter" :wiring="wiring" :joins="say.joins" :faults="faults" @toggle="toggle" />
    <p v-if="wiring.says" class="small soft">{{ written(wiring.says) }}</p>
    <form class="mt-1 mb-3.5 max-w-65" @submit.prevent="join">
      <NInput
        v-model:value="typed"
        class="mono"
        placeholder="or type: TX 3"
        :input-props="{ 'aria-label': 'Join two pins by typing' }"
      />
      <small v-if="typedFault" class="fault">{{ typedFault }}</small>
    </form>
    <div class="asks grid mb-2 gap-3.5 fill-230 items-start">
      <div v-if="adapter.levels.length > 1" class="field">
        <span>Its level switch stands on</span>
        <PickOne
          label="Its level switch stands on"
          :value="say.level ?? 0"
          :options="[notLooked(0), ...adapter.levels.map((level) => ({ value: level, label: `${level} V` }))]"
          @update:value="set({ level: $event || null })"
        />
      </div>
      <div class="field">
        <span>The unit’s own supply is</span>
        <PickOne
          label="The unit’s own supply is"
          :value="say.unitFed === true ? 'on' : say.unitFed === false ? 'off' : ''"
          :options="fedOptions"
          @update:value="set({ unitFed: $event === '' ? null : $event === 'on' })"
        />
      </div>
      <label v-if="wiring.terminated" class="field"
        >Between the bus wires, unpowered
        <NInput
          v-model:value="ohms"
          placeholder="60 ohm"
          class="mono"
          :input-props="{ 'aria-label': 'Between the bus wires, unpowered' }"
          @update:value="measure"
        />
        <small v-if="ohmsFault" class="fault">{{ ohmsFault }}</small></label
      >
      <div class="field">
        <span>Contact is</span>
        <PickOne
          label="Contact is"
          :value="say.contact ?? 'plug'"
          :options="contactOptions"
          @update:value="set({ contact: $event })"
        />
      </div>
      <fieldset v-if="suppliesUnit" class="feeding m-0 p-0 bare-border">
        <legend class="p-0">The adapter’s supply is</legend>
        <NRadioGroup
          :value="say.feeding === undefined ? null : say.feeding ? 'on' : 'off'"
          name="feeding"
          @update:value="set({ feeding: $event === 'on' })"
        >
          <NRadio value="on">on: it feeds the unit</NRadio>
          <NRadio value="off">off</NRadio>
        </NRadioGroup>
      </fieldset>
      <NCheckbox
        v-if="wiring.faces"
        class="items-center min-h-11"
        :checked="say.faces ?? false"
        @update:checked="set({ faces: $event })"
        >{{ wiring.faces }}</NCheckbox
      >
    </div>
  </template>
  <ol v-if="wiring?.order" class="small soft">
    <li v-for="line in wiring.order" :key="line">{{ line }}</li>
  </ol>
  <p class="small">
    <RouterLink
      v-if="adapter"
      class="inline-block mr-5.5 min-h-11 leading-11"
      :to="{ name: 'card', params: { id: jobId } }"
      >Wiring card, for print</RouterLink
    >
    <RouterLink class="inline-block mr-5.5 min-h-11 leading-11" :to="{ name: 'adapters' }"
      >Cables and adapters of your workshop</RouterLink
    >
  </p>
</template>
