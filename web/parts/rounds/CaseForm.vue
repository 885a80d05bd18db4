<script setup lang="ts">
import {
  beginAgreement,
  beginBeside,
  breakpointsIn,
  fuels,
  type CaseAgreementForm,
} from '@bench-wake/core/rounds'
import type { CaseAnswer, ListedCase } from '@bench-wake/server'
import { NButton, NCheckbox, NInput, NInputNumber } from 'naive-ui'
import { computed, onMounted, reactive, ref, shallowRef, watch } from 'vue'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import { useLook } from '../../stores/look'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import BesideForm from './BesideForm.vue'
import ChannelList from './ChannelList.vue'
import KindList from './KindList.vue'
import { useAsked } from '../useAsked'

/** What technician and calibrator agree on: said once, used for every round. */
const { view = null, unitId = null } = defineProps<{ view?: CaseAnswer | null; unitId?: string | null }>()
const emit = defineEmits<{ cancel: []; saved: [id: string] }>()
const bench = useBench()
const look = useLook()
const { busy, problem, ask } = useAsked()
const asking = useAsked()

const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
const form = reactive<CaseAgreementForm>(copy(view?.state.agreement ?? beginAgreement('electric')))
const unit = ref<string | null>(unitId)
const parts = ref(form.parts.join('\n'))
const hasAim = ref(form.aim !== null)
const aim = reactive({
  channel: form.aim?.channel ?? '',
  target: form.aim && 'channel' in form.aim.target ? form.aim.target.channel : '',
  value: form.aim && 'value' in form.aim.target ? form.aim.target.value : (null as number | null),
  x: form.aim?.x.channel ?? '',
  xPoints: form.aim?.x.points.join(' ') ?? '',
  y: form.aim?.y.channel ?? '',
  yPoints: form.aim?.y.points.join(' ') ?? '',
  within: form.aim?.within ?? 1,
})
const why = ref('')

/** Lists that were agreed on before. */
const others = shallowRef<ListedCase[]>([])
onMounted(() =>
  asking.ask(async () => {
    await bench.loadUnits()
    others.value = await got<ListedCase[]>(api.cases.$get())
  }),
)
const unitOptions = computed(() => (bench.units ?? []).map(({ id, name }) => ({ value: id, label: name })))
const otherOptions = computed(() =>
  others.value.filter(({ id }) => id !== view?.id).map(({ id, title }) => ({ value: id, label: title })),
)
const takenFrom = ref<string | null>(null)
const takeFrom = (id: string | null) =>
  asking.ask(async () => {
    if (!id) return
    const { state } = await got<CaseAnswer>(api.cases[':id'].$get({ param: { id } }))
    const { channels, kinds, limits, beside } = copy(state.agreement)
    Object.assign(form, { channels, kinds, limits, ...(beside ? { beside } : {}) })
  })
function drive(to: 'combustion' | 'electric'): void {
  const { title, goal, calibrator } = form
  Object.assign(form, beginAgreement(to), { title, goal, calibrator })
}
const drives = [
  { value: 'electric' as const, label: 'Electric' },
  { value: 'combustion' as const, label: 'Combustion' },
]
const fuelOptions = Object.entries(fuels).map(([value, { name }]) => ({ value, label: name }))
const names = computed(() => form.channels.map(({ name }) => ({ value: name, label: name })))
/** Every channel has a name, and what is typed of its source can be read. */
const listReads = ref(true)

/** Whether a channel comes from a second device: it is described then, and stays described. */
const asksBeside = computed(() => form.channels.some(({ read }) => read && 'beside' in read))
watch(asksBeside, (asks) => asks && (form.beside ??= beginBeside()), { immediate: true })

const aimFault = computed(() => {
  if (!hasAim.value) return null
  if (!aim.channel || !aim.x || !aim.y)
    return 'Choose the channel that is measured, and the two edges of its map.'
  if (!aim.target && aim.value === null) return 'Say what it should be: another channel, or a figure.'
  if (!breakpointsIn(aim.xPoints) || !breakpointsIn(aim.yPoints))
    return 'Write the breakpoints as figures that rise: 0 500 1000 1500.'
  return null
})
const ready = computed(
  () =>
    unit.value !== null &&
    form.title.trim() !== '' &&
    form.calibrator.trim() !== '' &&
    listReads.value &&
    aimFault.value === null,
)
function agreementOf(): CaseAgreementForm {
  const { fuel, beside, ...rest } = copy(form)
  return {
    ...rest,
    ...(rest.drive === 'combustion' && fuel ? { fuel } : {}),
    parts: parts.value
      .split('\n')
      .map((line) => line.trim())
      .filter(Boolean),
    ...(asksBeside.value && beside ? { beside } : {}),
    aim: hasAim.value
      ? {
          channel: aim.channel,
          target: aim.target ? { channel: aim.target } : { value: aim.value! },
          x: { channel: aim.x, points: breakpointsIn(aim.xPoints)! },
          y: { channel: aim.y, points: breakpointsIn(aim.yPoints)! },
          within: aim.within,
          unit: form.channels.find(({ name }) => name === aim.channel)?.unit ?? '',
        }
      : null,
  }
}
const save = () =>
  ask(async () => {
    const by = look.name || 'Somebody'
    const agreement = agreementOf()
    const saved = view
      ? await got<CaseAnswer>(
          api.cases[':id'].agreement.$post({
            param: { id: view.id },
            json: { agreement, by, why: why.value },
          }),
        )
      : await got<CaseAnswer>(api.cases.$post({ json: { unitId: unit.value!, agreement, by } }))
    emit('saved', saved.id)
  })
</script>

<template>
  <form class="form grid pt-4 gap-3 line-t" @submit.prevent="save">
    <h2>{{ view ? 'What was agreed' : 'A new case' }}</h2>
    <ProblemNote v-if="problem" :problem="problem" />
    <ProblemNote v-if="asking.problem.value" :problem="asking.problem.value" />
    <div class="grid gap-3.5 fill-240">
      <div v-if="!view" class="field content-start">
        <span>Unit</span>
        <PickOne
          v-model:value="unit"
          label="Unit"
          :options="unitOptions"
          filterable
          placeholder="Choose a unit"
        />
      </div>
      <label class="field col-span-2 phone:col-auto"
        >What it is about
        <NInput
          v-model:value="form.title"
          placeholder="Surges at a quarter pedal"
          :maxlength="120"
          :input-props="{ 'aria-label': 'What it is about' }"
      /></label>
      <label class="field content-start"
        >Calibrator
        <NInput
          v-model:value="form.calibrator"
          placeholder="Who answers the logs"
          :maxlength="120"
          :input-props="{ 'aria-label': 'Calibrator' }"
      /></label>
      <div class="field content-start">
        <span>Drive</span>
        <PickOne :value="form.drive" label="Drive" :options="drives" @update:value="drive" />
      </div>
      <div v-if="form.drive === 'combustion'" class="field content-start">
        <span>Fuel</span>
        <PickOne
          :value="form.fuel ?? null"
          label="Fuel"
          :options="fuelOptions"
          @update:value="form.fuel = ($event ?? 'petrol') as keyof typeof fuels"
        />
      </div>
      <label class="field col-span-2 phone:col-auto"
        >Goal
        <NInput
          v-model:value="form.goal"
          placeholder="What it should do in the end"
          :maxlength="1000"
          :input-props="{ 'aria-label': 'Goal' }"
      /></label>
      <label class="field col-span-2 phone:col-auto"
        >Parts that are not as built
        <NInput
          v-model:value="parts"
          type="textarea"
          :rows="2"
          placeholder="One a line"
          :input-props="{ 'aria-label': 'Parts that are not as built' }"
      /></label>
    </div>

    <h3 class="mt-2 text-body text-ink">Channels to log</h3>
    <p class="small soft">
      As the logger names them. Saved with the case and asked of every log. Last: how the bench gets it, to
      record it without another logger: a data identifier with type and factor (<code>0x2001 u16 × 0.1</code
      >), with its rate where the unit sends it by itself (<code>0xF201 u16 fast</code>); a line that the unit
      shows (<code>line supply</code>); a line of a second device (<code>beside lambda</code>).
    </p>
    <div v-if="otherOptions.length > 0" class="grid gap-3.5 fill-240">
      <div class="field content-start">
        <span>Use the list of another case</span>
        <PickOne
          v-model:value="takenFrom"
          label="Use the list of another case"
          :options="otherOptions"
          @update:value="takeFrom"
        />
      </div>
    </div>
    <ChannelList
      :key="`${form.drive} ${takenFrom}`"
      v-model:channels="form.channels"
      v-model:reads="listReads"
    />

    <template v-if="form.beside && asksBeside">
      <h3 class="mt-2 text-body text-ink">Second device</h3>
      <p class="small soft">
        What it shows is joined to the rows by time. In the list above a channel of it is
        <code>beside lambda</code>, by the name between the braces.
      </p>
      <BesideForm v-model="form.beside" />
    </template>

    <h3 class="mt-2 text-body text-ink">Logs, in their order</h3>
    <KindList v-model="form.kinds" />
    <div class="grid gap-3.5 fill-240">
      <label class="field content-start"
        >Supply must stay above, V
        <NInputNumber
          v-model:value="form.floorVolts"
          clearable
          :show-button="false"
          placeholder="not watched"
          :input-props="{ 'aria-label': 'Supply must stay above' }"
      /></label>
    </div>

    <NCheckbox v-model:checked="hasAim">There is a figure that says how good it is</NCheckbox>
    <template v-if="hasAim">
      <div class="grid gap-3.5 fill-240">
        <div class="field content-start">
          <span>Measured</span><PickOne v-model:value="aim.channel" label="Measured" :options="names" />
        </div>
        <div class="field content-start">
          <span>Should be as</span
          ><PickOne
            v-model:value="aim.target"
            label="Should be as"
            :options="[{ value: '', label: 'one figure' }, ...names]"
          />
        </div>
        <label v-if="!aim.target" class="field content-start"
          >Figure
          <NInputNumber
            v-model:value="aim.value"
            :show-button="false"
            :input-props="{ 'aria-label': 'Figure it should be' }"
        /></label>
        <label class="field content-start"
          >Good enough within
          <NInputNumber
            v-model:value="aim.within"
            :min="0"
            :show-button="false"
            :input-props="{ 'aria-label': 'Good enough within' }"
        /></label>
        <div class="field content-start">
          <span>Map along</span><PickOne v-model:value="aim.x" label="Map along" :options="names" />
        </div>
        <label class="field content-start"
          >Its breakpoints
          <NInput
            v-model:value="aim.xPoints"
            class="mono"
            placeholder="0 500 1000"
            :input-props="{ 'aria-label': 'Breakpoints along' }"
        /></label>
        <div class="field content-start">
          <span>Map up</span><PickOne v-model:value="aim.y" label="Map up" :options="names" />
        </div>
        <label class="field content-start"
          >Its breakpoints
          <NInput
            v-model:value="aim.yPoints"
            class="mono"
            placeholder="0 20 40"
            :input-props="{ 'aria-label': 'Breakpoints up' }"
        /></label>
      </div>
      <p v-if="aimFault" class="fault" role="status">{{ aimFault }}</p>
    </template>
    <label v-if="view" class="field"
      >Why it changes
      <NInput v-model:value="why" :maxlength="400" :input-props="{ 'aria-label': 'Why it changes' }"
    /></label>
    <div class="acts gap-3 items-start">
      <NButton attr-type="submit" type="primary" size="large" :loading="busy" :disabled="!ready">{{
        view ? 'Save' : 'Begin the case'
      }}</NButton>
      <NButton quaternary size="large" @click="emit('cancel')">Cancel</NButton>
    </div>
  </form>
</template>
