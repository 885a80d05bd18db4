<script setup lang="ts">
import { pinRoles } from '@bench-wake/core/family'
import { isProblem, readQuantity } from '@bench-wake/core/kernel'
import { adapterKinds, type Adapter } from '@bench-wake/core/ready'
import { NButton, NCheckbox, NInput, NTable } from 'naive-ui'
import { computed, onMounted, reactive, ref } from 'vue'
import PickOne from '../parts/PickOne.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import VerdictMark from '../parts/VerdictMark.vue'
import { api, got } from '../stores/api'

/** Cables and adapters of the workshop, with their pins and what is known of them (PRACTICE C1, C2). */
const adapters = ref<Adapter[] | null>(null)
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
  })
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
  })
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

    <form v-if="form" class="edit" @submit.prevent="keep">
      <h2>{{ isNew ? 'New cable or adapter' : form.name }}</h2>
      <div class="fields">
        <label v-if="isNew"
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
        <div class="field">
          <span>Speaks</span>
          <PickOne v-model:value="form.kind" label="Speaks" :options="kindOptions" />
        </div>
        <label
          >Clock of its converter
          <NInput
            v-model:value="clock"
            placeholder="48 MHz, if known"
            class="mono"
            :input-props="{ 'aria-label': 'Clock of its converter' }"
          />
          <small v-if="clockFault" class="fault">{{ clockFault }}</small></label
        >
        <div v-if="clock.trim()" class="field">
          <span>Times it looks at each bit</span>
          <PickOne v-model:value="oversampling" label="Times it looks at each bit" :options="timesOptions" />
        </div>
        <div class="field">
          <span>Inside</span>
          <PickOne v-model:value="form.form" label="Inside" :options="formOptions" />
        </div>
        <label
          >Levels of its switch, V
          <NInput
            v-model:value="levels"
            placeholder="3.3; 5"
            class="mono"
            :input-props="{ 'aria-label': 'Levels of its switch' }"
        /></label>
        <label
          >Pinout of its plug
          <NInput
            v-model:value="jack"
            placeholder="none: loose wires"
            :input-props="{ 'aria-label': 'Pinout of its plug' }"
        /></label>
        <label
          >Serial number
          <NInput
            v-model:value="serial"
            class="mono"
            placeholder="As on its label"
            :input-props="{ 'aria-label': 'Serial number' }"
        /></label>
        <div class="field">
          <span>Condition</span>
          <PickOne v-model:value="form.standing" label="Condition" :options="standingOptions" />
        </div>
        <label
          >Why
          <NInput v-model:value="why" placeholder="What made it so" :input-props="{ 'aria-label': 'Why' }"
        /></label>
        <NCheckbox v-model:checked="form.terminator">Carries 120 ohm</NCheckbox>
        <NCheckbox v-model:checked="form.ownPart">The maker’s own part</NCheckbox>
      </div>
      <NTable :bordered="false" class="pins">
        <thead>
          <tr>
            <th>Pin</th>
            <th>Name</th>
            <th>What it is for</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(pin, index) in form.pins" :key="index">
            <td>
              <NInput
                v-model:value="pin.id"
                class="mono"
                :input-props="{ 'aria-label': `Pin ${index + 1}` }"
              />
            </td>
            <td>
              <NInput v-model:value="pin.name" :input-props="{ 'aria-label': `Name of pin ${index + 1}` }" />
            </td>
            <td>
              <PickOne
                v-model:value="pin.role"
                :label="`What pin ${index + 1} is for`"
                :options="roleOptions"
              />
            </td>
            <td>
              <NButton quaternary :disabled="form.pins.length === 1" @click="form.pins.splice(index, 1)"
                >Remove</NButton
              >
            </td>
          </tr>
        </tbody>
      </NTable>
      <div class="acts">
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
    <NTable v-else-if="adapters && !form" v-columns :bordered="false" class="list">
      <thead>
        <tr>
          <th>Cable or adapter</th>
          <th>Speaks</th>
          <th>Pins</th>
          <th>Condition</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="adapter in adapters" :key="adapter.id" :data-adapter="adapter.id">
          <td>
            <b>{{ adapter.name }}</b>
            <small>{{
              [
                adapter.serial && `no. ${adapter.serial}`,
                forms[adapter.form],
                adapter.ownPart && 'maker’s own part',
                adapter.usb && `USB ${adapter.usb.vendorId}:${adapter.usb.productId}`,
              ]
                .filter(Boolean)
                .join(', ')
            }}</small>
          </td>
          <td>
            {{ adapter.kind }}
            <small>{{ adapter.levels.map((level) => `${level} V`).join(' or ') }}</small>
          </td>
          <td class="mono small">
            {{ adapter.pins.map(({ id }) => id).join(' ')
            }}<small v-if="adapter.jack">plug {{ adapter.jack }}</small>
          </td>
          <td>
            <VerdictMark :verdict="marks[adapter.standing]" quiet /> {{ standings[adapter.standing] }}
            <small>{{ adapter.standingWhy }}</small>
          </td>
          <td class="acts">
            <NButton quaternary @click="edit(adapter)">Change</NButton>
            <NButton quaternary @click="mark(adapter, adapter.standing === 'bad' ? 'good' : 'bad')">{{
              adapter.standing === 'bad' ? 'Mark good' : 'Mark bad'
            }}</NButton>
            <NButton quaternary @click="remove(adapter)">Remove</NButton>
          </td>
        </tr>
      </tbody>
    </NTable>
  </div>
</template>

<style scoped>
.edit {
  border-top: 1px solid var(--hair);
  padding-top: 16px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
  gap: 14px;
  margin: 12px 0;
}
.field,
label {
  display: grid;
  gap: 4px;
  align-content: start;
  font-size: 13px;
  color: var(--soft);
}
.pins .pick {
  min-width: 190px;
}
.pins td {
  padding: 4px 12px 4px 0;
}
.pins th {
  text-align: left;
  font-size: 13px;
  font-weight: 400;
  color: var(--soft);
}
.acts {
  white-space: nowrap;
}
form .acts {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin: 14px 0;
}
</style>
