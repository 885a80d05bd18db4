<script setup lang="ts">
import type { Adapter } from '@bench-wake/core/ready'
import type { StandInCable } from '@bench-wake/server'
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import PickOne from '../parts/PickOne.vue'
import PlugNow from '../parts/PlugNow.vue'
import AdapterSays from '../parts/port/AdapterSays.vue'
import BenchMeterForm from '../parts/port/BenchMeterForm.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useLend } from '../stores/lend'
import { NButton, NCheckbox, NInput, NTable } from 'naive-ui'

/** The ports of this computer and the stand-ins, as they come and go (PRACTICE C3 to C5). */
const bench = useBench()
type ClipSeat = NonNullable<StandInCable['clip']>
const cables = ref<StandInCable[]>([])
const adapters = ref<Adapter[]>([])
/** A bench with many units has as many stand-ins: they are looked for by name. */
const wanted = ref('')
const isWanted = (...texts: (string | undefined)[]) =>
  wanted.value
    .toLowerCase()
    .split(/\s+/)
    .every((word) => texts.some((text) => text?.toLowerCase().includes(word)))
const ports = computed(
  () =>
    bench.ports?.filter(({ name, usb, program }) =>
      isWanted(name, usb?.vendorId, usb?.productId, usb?.maker, usb?.serialNumber, program),
    ) ?? [],
)
const ownCables = computed(() => cables.value.filter(({ name }) => isWanted(name)))
const many = 12
const loading = useAsked()
const plugging = useAsked()
const lending = useAsked()
const lend = useLend()
/** Choosing none in the browser's own list is no fault. */
const lendNow = (act: () => Promise<void>) =>
  lending.ask(async () => {
    try {
      await act()
    } catch (error) {
      if (!(error instanceof DOMException) || error.name !== 'NotFoundError') throw error
    }
    await bench.loadPorts()
  })
const load = async () => {
  await bench.loadPorts()
  cables.value = await got<typeof cables.value>(api.ports.cables.$get())
}
onMounted(() =>
  loading.ask(async () => {
    await load()
    adapters.value = await got<Adapter[]>(api.adapters.$get())
  }),
)
useIntervalFn(() => void load().catch(() => {}), 2000)
const plug = (port: string, joined: boolean) =>
  plugging.ask(async () => {
    const cable = cables.value.find(({ id }) => id === port)
    if (cable) cable.joined = joined
    cables.value = await got<typeof cables.value>(api.ports.cables.$put({ json: { port, joined } }))
    await bench.loadPorts()
  })
const light = (port: string, on: boolean) =>
  plugging.ask(async () => {
    const cable = cables.value.find(({ id }) => id === port)
    if (cable) cable.lamp = on
    cables.value = await got<typeof cables.value>(api.ports.lamps.$put({ json: { port, on } }))
  })
const seat = (port: string, seat: ClipSeat) =>
  plugging.ask(async () => {
    cables.value = await got<typeof cables.value>(api.ports.clips.$put({ json: { port, seat } }))
  })
const seats: { value: ClipSeat; label: string }[] = [
  { value: 'good', label: 'clip sits well' },
  { value: 'loose', label: 'clip: one leg is loose' },
  { value: 'off', label: 'clip off its legs' },
]
/** The adapter in the drawer whose converter names itself so. */
const adapterOf = (usb: { vendorId?: string; productId?: string } | undefined) =>
  adapters.value.find(
    (each) =>
      each.usb &&
      each.usb.vendorId.toLowerCase() === usb?.vendorId?.toLowerCase() &&
      each.usb.productId.toLowerCase() === usb?.productId?.toLowerCase(),
  )
</script>

<template>
  <div class="page">
    <div class="head">
      <div>
        <h1>Ports</h1>
        <p class="soft">
          A port appears when its adapter is plugged in and its driver is there. One program a port.
        </p>
      </div>
      <PlugNow />
    </div>
    <ProblemNote v-if="loading.problem.value" :problem="loading.problem.value" />
    <ProblemNote v-if="plugging.problem.value" :problem="plugging.problem.value" />
    <p v-if="!bench.ports && !loading.problem.value" class="soft" role="status">Listing the ports…</p>
    <NInput
      v-if="bench.ports && bench.ports.length > many"
      v-model:value="wanted"
      class="find"
      clearable
      placeholder="Find a port: a name, a unit, a USB number"
      :input-props="{ 'aria-label': 'Find a port' }"
    />
    <p v-if="wanted && bench.ports?.length && !ports.length" class="soft" role="status">
      No port is called that.
    </p>
    <NTable v-if="ports.length" v-columns :bordered="false" class="list">
      <thead>
        <tr>
          <th>Port</th>
          <th>Converter</th>
          <th>Held by</th>
          <th>What goes over it</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="port in ports" :key="port.id" :data-port="port.id">
          <td>
            <b :class="{ mono: port.kind === 'serial' }">{{ port.name }}</b>
            <small>{{
              {
                'stand-in': 'simulated; nothing real is written',
                lent: 'of another computer, by its open page',
                serial: 'of this computer',
                usb: 'of this computer',
              }[port.kind]
            }}</small>
          </td>
          <td>
            <span v-if="port.isMeter" class="tag">meter of this bench</span>
            <template v-if="port.usb?.vendorId">
              USB <span class="mono">{{ port.usb.vendorId }}:{{ port.usb.productId }}</span>
              <small>{{
                [adapterOf(port.usb)?.name, port.usb.maker, port.usb.serialNumber].filter(Boolean).join(', ')
              }}</small>
            </template>
            <template v-else-if="!port.isMeter">{{
              port.kind === 'stand-in' ? 'none' : 'not told'
            }}</template>
          </td>
          <td>
            {{
              port.heldBy === 'listening'
                ? 'a trace that listens'
                : port.heldBy
                  ? 'a run'
                  : (port.program ?? 'not in use')
            }}
          </td>
          <td>
            <RouterLink :to="{ name: 'trace', query: { port: port.id } }">Trace</RouterLink>
            <small>{{ port.channel === 'usb' ? 'USB device' : 'serial line' }}</small>
            <AdapterSays v-if="port.channel === 'usb' && !port.heldBy" :port="port.id" :name="port.name" />
          </td>
        </tr>
      </tbody>
    </NTable>
    <p v-if="bench.ports && !bench.ports.length" class="soft">No port is there. Plug the adapter in.</p>

    <BenchMeterForm />

    <section v-if="lend.canSerial || lend.canUsb" class="cables">
      <h2>Lend a port of the computer you sit at</h2>
      <p class="small soft">
        For when the program runs on another computer. It lasts as long as this page is open; closing it is
        pulling the plug.
      </p>
      <div class="lend">
        <NButton v-if="lend.canSerial" :loading="lending.busy.value" @click="lendNow(lend.lendSerial)"
          >Lend a serial port</NButton
        >
        <NButton v-if="lend.canUsb" :loading="lending.busy.value" @click="lendNow(lend.lendUsb)"
          >Lend a USB device</NButton
        >
      </div>
      <ProblemNote v-if="lending.problem.value" :problem="lending.problem.value" />
      <p v-if="lend.lost" role="alert">{{ lend.lost }}</p>
      <ul v-if="lend.lent.size">
        <li v-for="each in lend.lent.values()" :key="each.id">
          {{ each.name }}
          <NButton size="small" @click="lend.takeBack(each.id)">Stop lending</NButton>
        </li>
      </ul>
    </section>

    <section v-if="ownCables.length" class="cables">
      <h2>Cables of the stand-ins</h2>
      <p class="small soft">
        Pull one, as a hand would, to see what the program makes of it; light a lamp at a battery, and see the
        supply sag; seat a clip badly, and see it refused.
      </p>
      <ul>
        <li v-for="cable in ownCables" :key="cable.id">
          <NCheckbox :checked="cable.joined" @update:checked="plug(cable.id, $event)">{{
            cable.name
          }}</NCheckbox>
          <NCheckbox
            v-if="cable.lamp !== undefined"
            :checked="cable.lamp"
            @update:checked="light(cable.id, $event)"
            >work lamp at its battery</NCheckbox
          >
          <PickOne
            v-if="cable.clip !== undefined"
            class="clip"
            :value="cable.clip"
            :label="`How the clip sits: ${cable.name}`"
            :options="seats"
            @update:value="seat(cable.id, $event as ClipSeat)"
          />
        </li>
      </ul>
    </section>
    <p class="small">
      <RouterLink :to="{ name: 'adapters' }">Cables and adapters of your workshop</RouterLink> ·
      <RouterLink :to="{ name: 'trace' }">Open a saved trace</RouterLink>
    </p>
  </div>
</template>

<style scoped>
.find {
  max-width: 420px;
  margin-bottom: 8px;
}
.cables {
  margin-top: 30px;
}
.lend {
  display: flex;
  gap: 12px;
  margin: 6px 0 12px;
}
.clip {
  width: 220px;
}
.cables li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  align-items: center;
  min-height: 44px;
}
.cables ul {
  list-style: none;
  margin: 6px 0 16px;
  padding: 0;
  columns: 2;
}
@media (max-width: 700px) {
  .cables ul {
    columns: 1;
  }
}
</style>
