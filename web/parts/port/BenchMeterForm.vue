<script setup lang="ts">
import { askedLineScript, askedLineWords, type BenchMeter, type AskedLine } from '@bench-wake/core/link'
import { NButton, NForm, NFormItem, NInput, NRadio, NRadioGroup } from 'naive-ui'
import { computed, onMounted, ref } from 'vue'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import PickOne from '../PickOne.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import AskedLineFields from './AskedLineFields.vue'
import { instrumentSpeeds } from './line-speeds'
import { fixed } from '../written'

/** Gives a serial port the job of the meter: how it is asked, what it shows now, and taking the job away again. */
const bench = useBench()
const loading = useAsked()
const reading = useAsked()
const keeping = useAsked()
const kept = ref<BenchMeter | null>(null)
const open = ref(false)
/** What the last reading showed; null where the meter did not answer. */
const shown = ref<{ volts: number | null } | null>(null)

const usual: AskedLine = { sends: '', lineEnd: '\r', answer: '{volts}', withinMs: 1000 }
const form = ref({
  name: 'Bench meter',
  port: null as string | null,
  baudRate: 9600,
  kind: 'scpi' as 'scpi' | 'script',
  query: 'MEAS:VOLT?',
  words: { ...usual },
})
/** A script of another shape than one line asked and one answered is kept as it is. */
const other = computed(() =>
  kept.value?.speaks.kind === 'script' && !askedLineWords(kept.value.speaks.script)
    ? kept.value.speaks
    : null,
)

function show(meter: BenchMeter | null): void {
  kept.value = meter
  if (!meter) return
  const { name, port, line, speaks } = meter
  form.value = {
    name,
    port,
    baudRate: line.baudRate,
    kind: speaks.kind,
    query: speaks.kind === 'scpi' ? speaks.query : 'MEAS:VOLT?',
    words: (speaks.kind === 'script' && askedLineWords(speaks.script)) || { ...usual },
  }
}
onMounted(() =>
  loading.ask(async () => show((await got<{ meter: BenchMeter | null }>(api.meter.$get())).meter)),
)

/** As it is said now; null while no port is chosen. */
const document = computed((): BenchMeter | null => {
  const { name, port, baudRate, kind, query, words } = form.value
  if (!port) return null
  return {
    name,
    port,
    line: { ...(kept.value?.line ?? { dataBits: 8, parity: 'none', stopBits: 1 }), baudRate },
    speaks: kind === 'scpi' ? { kind, query } : (other.value ?? { kind, script: askedLineScript(words) }),
  }
})
const ports = computed(() =>
  (bench.ports ?? [])
    .filter(({ kind, channel }) => kind !== 'stand-in' && channel === 'serial')
    .map(({ id, name }) => ({ value: id, label: name })),
)
const read = () =>
  reading.ask(async () => {
    shown.value = null
    shown.value = await got<{ volts: number | null }>(
      api.meter.read.$post({ json: open.value && document.value ? { meter: document.value } : {} }),
    )
  })
const save = () => {
  const json = document.value
  if (!json) return
  void keeping.ask(async () => {
    show((await got<{ meter: BenchMeter | null }>(api.meter.$put({ json }))).meter)
    open.value = false
    await bench.loadPorts()
  }, 'The meter is kept.')
}
const remove = () =>
  keeping.ask(async () => {
    await got(api.meter.$delete())
    kept.value = null
    shown.value = null
    await bench.loadPorts()
  }, 'The meter is removed.')
const nameOf = (id: string) => bench.ports?.find((each) => each.id === id)?.name ?? `${id}, not there now`
</script>

<template>
  <section class="mt-7.5" data-part="meter">
    <h2>Meter of this bench</h2>
    <p class="small soft">
      A meter at a serial port of its own reads the supply before a run and all through it: the floor, the sag
      and the hold before erase then rest on what it shows, and not on what was typed.
    </p>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <div v-if="kept && !open" class="flex gap-3 flex-wrap items-center">
      <p><b>{{ kept.name }}</b> at {{ nameOf(kept.port) }}, {{ kept.line.baudRate }} baud</p>
      <NButton :loading="reading.busy.value" @click="read">Read now</NButton>
      <NButton quaternary @click="open = true">Change</NButton>
      <NButton quaternary :loading="keeping.busy.value" @click="remove">Remove</NButton>
    </div>
    <NButton v-else-if="!open && loading.reading.value === false" @click="open = true"
      >Use a port as meter…</NButton
    >
    <NForm
      v-else-if="open"
      label-placement="top"
      class="form grid gap-y-0 gap-x-4.5 fill-240 max-w-220"
      @submit.prevent="save"
    >
      <p v-if="!ports.length" class="col-span-full" role="status">
        No serial port is there. Plug the meter’s cable in; a port shared from another computer counts too.
      </p>
      <NFormItem label="Name">
        <NInput v-model:value="form.name" :input-props="{ 'aria-label': 'Name' }" :maxlength="80" />
      </NFormItem>
      <NFormItem label="Port">
        <PickOne
          v-model:value="form.port"
          label="Port of the meter"
          :options="ports"
          placeholder="Choose the port"
        />
      </NFormItem>
      <NFormItem label="Speed">
        <PickOne v-model:value="form.baudRate" label="Speed of the meter" :options="instrumentSpeeds" />
      </NFormItem>
      <NFormItem label="How it is asked" class="col-span-full">
        <NRadioGroup v-model:value="form.kind" name="meter-kind">
          <NRadio value="scpi">SCPI</NRadio>
          <NRadio value="script">In words of its own</NRadio>
        </NRadioGroup>
      </NFormItem>
      <NFormItem v-if="form.kind === 'scpi'" label="Query">
        <NInput v-model:value="form.query" :input-props="{ 'aria-label': 'Query' }" class="mono" />
      </NFormItem>
      <p v-else-if="other" class="small soft col-span-full">
        Its script has more than one question; it stays as it is.
      </p>
      <template v-else>
        <AskedLineFields v-model="form.words" slots="{volts} where the figure stands" />
      </template>
      <div class="flex gap-3 flex-wrap items-center col-span-full">
        <NButton :disabled="!document" :loading="reading.busy.value" @click="read">Read now</NButton>
        <NButton
          type="primary"
          attr-type="submit"
          :disabled="!document || !form.name.trim()"
          :loading="keeping.busy.value"
          >Save</NButton
        >
        <NButton quaternary @click="open = false">Cancel</NButton>
      </div>
    </NForm>
    <p v-if="shown" class="mt-2.5 text-lead" role="status">
      {{
        shown.volts === null
          ? 'It did not answer. Check its cable, its speed, and what it is asked.'
          : `It shows ${fixed(shown.volts, 2)} V.`
      }}
    </p>
    <ProblemNote v-if="reading.problem.value" :problem="reading.problem.value" />
    <ProblemNote v-if="keeping.problem.value" :problem="keeping.problem.value" />
  </section>
</template>
