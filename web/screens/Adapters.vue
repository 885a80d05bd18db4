<script setup lang="ts">
import { pinRoles } from '@bench-wake/core/family'
import { isProblem, readQuantity } from '@bench-wake/core/kernel'
import { adapterKinds, type Adapter } from '@bench-wake/core/ready'
import { NButton, NCheckbox, NInput, NTable } from 'naive-ui'
import { computed, onMounted, reactive, ref, shallowRef } from 'vue'
import ListTable from '../parts/ListTable.vue'
import type { ListColumn } from '../parts/list-column'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import { api, got } from '../stores/api'

/** Cables and adapters of the workshop, with their pins and what is known of them (PRACTICE C1, C2). */
const adapters = shallowRef<Adapter[] | null>(null)
const loading = useAsked()
const saving = useAsked()
const load = () => loading.ask(async () => (adapters.value = await got<Adapter[]>(api.adapters.$get())))
onMounted(load)

const standings = { good: 'known good', bad: 'known bad', untried: 'untried' } as const
const marks = { good: 'go', bad: 'stop', untried: 'note' } as const
const forms = { 'pass-through': 'plain pass-through', converter: 'converter inside' } as const

const named = (names: Record<string, string>) =>
  Object.entries(names).map(([value, label]) => ({ value, label }))
const same = (names: readonly string[]) => names.map((value) => ({ value, label: value }))
const kindOptions = same(adapterKinds)
const roleOptions = same(pinRoles)
const formOptions = named(forms)
const standingOptions = named(standings)
const timesOptions = same(['4', '8', '16', '32'])

const aboutIt = ({ serial: number, form: inside, ownPart, usb }: Adapter) =>
  [
    number && `no. ${number}`,
    forms[inside],
    ownPart && 'maker’s own part',
    usb && `USB ${usb.vendorId}:${usb.productId}`,
  ]
    .filter(Boolean)
    .join(', ')
const ranks = { good: 0, untried: 1, bad: 2 }
const columns: ListColumn<Adapter>[] = [
  { key: 'name', title: 'Cable or adapter', sort: ({ name }) => name, text: aboutIt },
  { key: 'kind', title: 'Speaks', sort: ({ kind }) => kind },
  {
    key: 'pins',
    title: 'Pins',
    text: ({ pins, jack: plug }) => `${pins.map(({ id }) => id).join(' ')} ${plug ?? ''}`,
  },
  {
    key: 'standing',
    title: 'Condition',
    sort: ({ standing }) => ranks[standing],
    text: ({ standing, standingWhy }) => `${standings[standing]} ${standingWhy ?? ''}`,
  },
  { key: 'acts', title: '' },
]

const blank = (): Adapter => ({
  id: '',
  name: '',
  kind: 'serial',
  form: 'converter',
  pins: [
    { id: 'GND', name: 'GND', role: 'ground' },
    { id: 'TX', name: 'TX', role: 'transmit' },
    { id: 'RX', name: 'RX', role: 'receive' },
  ],
  levels: [3.3],
  terminator: false,
  ownPart: false,
  standing: 'untried',
})
const form = ref<Adapter | null>(null)
const isNew = ref(false)
const levels = ref('')
const jack = ref('')
const serial = ref('')
const why = ref('')
/** Clock of the converter chip, as a data sheet gives it. */
const clock = ref('')
const oversampling = ref('16')
const clockFault = ref<string | null>(null)
function edit(adapter: Adapter | null) {
  isNew.value = adapter === null
  form.value = reactive(JSON.parse(JSON.stringify(adapter ?? blank())) as Adapter)
  levels.value = form.value.levels.join(', ')
  jack.value = form.value.jack ?? ''
  serial.value = form.value.serial ?? ''
  why.value = form.value.standingWhy ?? ''
  clock.value = form.value.clock ? `${form.value.clock.hertz / 1e6} MHz` : ''
  oversampling.value = String(form.value.clock?.oversampling ?? 16)
  clockFault.value = null
}
const slug = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
const twin = computed(
  () => isNew.value && adapters.value?.some(({ id }) => id === slug(form.value?.name ?? '')) === true,
)
function clockOf(): Pick<Adapter, 'clock'> {
  if (clock.value.trim() === '') return {}
  const hertz = readQuantity(clock.value, 'hertz', { field: 'clock', min: 1000, max: 1e9 })
  return { clock: { hertz, oversampling: Number(oversampling.value) as 4 | 8 | 16 | 32 } }
}
const keep = () => {
  clockFault.value = null
  try {
    clockOf()
  } catch (error) {
    clockFault.value = isProblem(error) ? `${error.facts.says}, ${error.facts.expected}` : String(error)
    return undefined
  }
  return saving.ask(async () => {
    const { jack: _jack, serial: _serial, standingWhy: _why, clock: _clock, ...rest } = form.value!
    const document: Adapter = {
      ...(JSON.parse(JSON.stringify(rest)) as Adapter),
      id: isNew.value ? slug(rest.name) : rest.id,
      levels: levels.value
        .split(/[;\s]+|,\s+/)
        .map((each) => Number(each.replace(',', '.').replace(/V$/i, '')))
        .filter((each) => each > 0),
      ...(jack.value.trim() ? { jack: jack.value.trim() } : {}),
      ...(serial.value.trim() ? { serial: serial.value.trim() } : {}),
      ...(why.value.trim() ? { standingWhy: why.value.trim() } : {}),
      ...clockOf(),
    }
    await got(api.adapters.$put({ json: document }))
    form.value = null
    await load()
  }, `${form.value?.name.trim()} is in the drawer.`)
}
const mark = (adapter: Adapter, standing: Adapter['standing']) =>
  saving.ask(async () => {
    await got(api.adapters.$put({ json: { ...adapter, standing } }))
    await load()
  })
const gone = ref<Adapter | null>(null)
const remove = (adapter: Adapter) =>
  saving.ask(async () => {
    await got(api.adapters[':id'].$delete({ param: { id: adapter.id } }))
    gone.value = adapter
    await load()
  })
const restore = () =>
  saving.ask(async () => {
    await got(api.adapters.$put({ json: gone.value! }))
    gone.value = null
    await load()
  }, `${gone.value?.name} is back in the drawer.`)
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Cables and adapters</h1>
        <p class="soft">
          What your workshop has, with its pins. Cables that look alike are not; poor ones cause failures that
          look like something else.
        </p>
      </div>
      <NButton v-if="!form" size="large" type="primary" @click="edit(null)">Add one</NButton>
    </div>
    <ProblemNote v-if="saving.problem.value" :problem="saving.problem.value" />
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <p v-if="gone" role="status">
      {{ gone.name }} is removed.
      <button class="textlike" type="button" @click="restore">Undo</button>
    </p>

    <form v-if="form" class="pt-4 line-t" @submit.prevent="keep">
      <h2>{{ isNew ? 'New cable or adapter' : form.name }}</h2>
      <div class="grid my-3 gap-3.5 fill-220">
        <label v-if="isNew" class="field content-start"
          >Name
          <NInput
            v-model:value="form.name"
            :input-props="{ 'aria-label': 'Name' }"
            placeholder="As people call it"
          />
          <small v-if="twin" class="fault"
            >One is called so already; give this one another name.</small
          ></label
        >
        <div class="field content-start">
          <span>Speaks</span>
          <PickOne v-model:value="form.kind" label="Speaks" :options="kindOptions" />
        </div>
        <label class="field content-start"
          >Clock of its converter
          <NInput
            v-model:value="clock"
            placeholder="48 MHz, if known"
            class="mono"
            :input-props="{ 'aria-label': 'Clock of its converter' }"
          />
          <small v-if="clockFault" class="fault">{{ clockFault }}</small></label
        >
        <div v-if="clock.trim()" class="field content-start">
          <span>Times it looks at each bit</span>
          <PickOne v-model:value="oversampling" label="Times it looks at each bit" :options="timesOptions" />
        </div>
        <div class="field content-start">
          <span>Inside</span>
          <PickOne v-model:value="form.form" label="Inside" :options="formOptions" />
        </div>
        <label class="field content-start"
          >Levels of its switch, V
          <NInput
            v-model:value="levels"
            placeholder="3.3; 5"
            class="mono"
            :input-props="{ 'aria-label': 'Levels of its switch' }"
        /></label>
        <label class="field content-start"
          >Pinout of its plug
          <NInput
            v-model:value="jack"
            placeholder="none: loose wires"
            :input-props="{ 'aria-label': 'Pinout of its plug' }"
        /></label>
        <label class="field content-start"
          >Serial number
          <NInput
            v-model:value="serial"
            class="mono"
            placeholder="As on its label"
            :input-props="{ 'aria-label': 'Serial number' }"
        /></label>
        <div class="field content-start">
          <span>Condition</span>
          <PickOne v-model:value="form.standing" label="Condition" :options="standingOptions" />
        </div>
        <label class="field content-start"
          >Why
          <NInput v-model:value="why" placeholder="What made it so" :input-props="{ 'aria-label': 'Why' }"
        /></label>
        <NCheckbox v-model:checked="form.terminator">Carries 120 ohm</NCheckbox>
        <NCheckbox v-model:checked="form.ownPart">The maker’s own part</NCheckbox>
      </div>
      <NTable :bordered="false" class="pins">
        <thead>
          <tr>
            <th class="text-left small font-400 soft">Pin</th>
            <th class="text-left small font-400 soft">Name</th>
            <th class="text-left small font-400 soft">What it is for</th>
            <th class="text-left small font-400 soft"></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(pin, index) in form.pins" :key="index">
            <td class="py-1 pl-0 pr-3">
              <NInput
                v-model:value="pin.id"
                class="mono"
                :input-props="{ 'aria-label': `Pin ${index + 1}` }"
              />
            </td>
            <td class="py-1 pl-0 pr-3">
              <NInput v-model:value="pin.name" :input-props="{ 'aria-label': `Name of pin ${index + 1}` }" />
            </td>
            <td class="py-1 pl-0 pr-3">
              <PickOne
                v-model:value="pin.role"
                :label="`What pin ${index + 1} is for`"
                :options="roleOptions"
              />
            </td>
            <td class="py-1 pl-0 pr-3">
              <NButton quaternary :disabled="form.pins.length === 1" @click="form.pins.splice(index, 1)"
                >Remove</NButton
              >
            </td>
          </tr>
        </tbody>
      </NTable>
      <div class="acts my-3.5 gap-3 whitespace-nowrap">
        <NButton @click="form.pins.push({ id: String(form.pins.length + 1), name: '', role: 'none' })"
          >Add a pin</NButton
        >
        <NButton
          type="primary"
          size="large"
          attr-type="submit"
          :loading="saving.busy.value"
          :disabled="
            !form.name.trim() || twin || form.pins.some(({ id, name }) => !id.trim() || !name.trim())
          "
          >Save</NButton
        >
        <NButton quaternary @click="form = null">Cancel</NButton>
      </div>
    </form>

    <p v-if="!adapters && !loading.problem.value" class="soft" role="status">Loading…</p>
    <p v-else-if="adapters?.length === 0" class="soft">
      No cable or adapter yet. Add the one that is on the bench.
    </p>
    <ListTable
      v-else-if="adapters && !form"
      :rows="adapters"
      :columns="columns"
      :key-of="({ id }) => id"
      :row-props="({ id }) => ({ 'data-adapter': id })"
      :leads="false"
      label="Cables and adapters"
    >
      <template #name="{ row: adapter }">
        <b>{{ adapter.name }}</b>
        <small>{{ aboutIt(adapter) }}</small>
      </template>
      <template #kind="{ row: adapter }">
        {{ adapter.kind }}
        <small>{{ adapter.levels.map((level) => `${level} V`).join(' or ') }}</small>
      </template>
      <template #pins="{ row: adapter }">
        <span class="mono small">{{ adapter.pins.map(({ id }) => id).join(' ') }}</span>
        <small v-if="adapter.jack">plug {{ adapter.jack }}</small>
      </template>
      <template #standing="{ row: adapter }">
        <VerdictMark :verdict="marks[adapter.standing]" quiet /> {{ standings[adapter.standing] }}
        <small>{{ adapter.standingWhy }}</small>
      </template>
      <template #acts="{ row: adapter }">
        <div class="acts whitespace-nowrap">
          <NButton quaternary @click="edit(adapter)">Change</NButton>
          <NButton quaternary @click="mark(adapter, adapter.standing === 'bad' ? 'good' : 'bad')">{{
            adapter.standing === 'bad' ? 'Mark good' : 'Mark bad'
          }}</NButton>
          <NButton quaternary @click="remove(adapter)">Remove</NButton>
        </div>
      </template>
    </ListTable>
  </div>
</template>

<style scoped>
.pins .pick {
  min-width: 190px;
}
</style>
