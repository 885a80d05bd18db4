<script setup lang="ts">
import type { Adapter } from '@bench-wake/core/ready'
import type { StandInCable } from '@bench-wake/server'
import { useIntervalFn, useSessionStorage } from '@vueuse/core'
import { computed, onMounted, shallowRef } from 'vue'
import ListTable from '../parts/ListTable.vue'
import type { ListColumn } from '../parts/list-column'
import PickOne from '../parts/PickOne.vue'
import PlugNow from '../parts/PlugNow.vue'
import AdapterSays from '../parts/port/AdapterSays.vue'
import BenchMeterForm from '../parts/port/BenchMeterForm.vue'
import ProblemNote from '../parts/ProblemNote.vue'
import { useAsked } from '../parts/useAsked'
import { api, got } from '../stores/api'
import { useBench } from '../stores/bench'
import { useLend } from '../stores/lend'
import { NButton, NCheckbox, NInput } from 'naive-ui'

/** The ports of this computer and the stand-ins, as they come and go (PRACTICE C3 to C5). */
const bench = useBench()
type ClipSeat = NonNullable<StandInCable['clip']>
const cables = shallowRef<StandInCable[]>([])
const adapters = shallowRef<Adapter[]>([])
/** A bench with many units has as many stand-ins: they are looked for by name. */
const wanted = useSessionStorage('ports-wanted', '')
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
type Port = NonNullable<typeof bench.ports>[number]
const whose: Record<Port['kind'], string> = {
  serial: 'Of this computer',
  usb: 'Of this computer',
  lent: 'Lent by the open page of another computer',
  'stand-in': 'Stand-ins: simulated, nothing real is written',
}
const holder = ({ heldBy, program }: Port) =>
  heldBy === 'listening' ? 'a trace that listens' : heldBy ? 'a run' : (program ?? 'not in use')
const columns: ListColumn<Port>[] = [
  { key: 'port', title: 'Port', width: '34%', sort: ({ name }) => name },
  { key: 'converter', title: 'Converter', sort: ({ usb }) => usb?.vendorId ?? null },
  { key: 'held', title: 'Held by', sort: holder },
  { key: 'trace', title: 'What goes over it', sort: ({ channel }) => channel },
]
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
  const read = await got<StandInCable[]>(api.ports.cables.$get())
  // What was just plugged is answered by that deed; an answer that was asked before it is older.
  if (underWay === 0) cables.value = read
}
/** Deeds that the program has not answered yet. */
let underWay = 0
/** Shown at once, before the program has answered; a second press is done after the first, and not dropped. */
const change = (port: string, shows: Partial<StandInCable>, put: () => Promise<StandInCable[]>) => {
  cables.value = cables.value.map((each) => (each.id === port ? { ...each, ...shows } : each))
  underWay++
  return plugging.askInTurn(async () => {
    try {
      const read = await put()
      // What was pressed since is not shown back to what it was.
      if (underWay === 1) cables.value = read
    } finally {
      underWay--
    }
  })
}
onMounted(() =>
  loading.ask(async () => {
    await load()
    adapters.value = await got<Adapter[]>(api.adapters.$get())
  }),
)
useIntervalFn(() => void load().catch(() => {}), 2000)
const plug = (port: string, joined: boolean) =>
  change(port, { joined }, async () => {
    const read = await got<StandInCable[]>(api.ports.cables.$put({ json: { port, joined } }))
    await bench.loadPorts()
    return read
  })
const light = (port: string, on: boolean) =>
  change(port, { lamp: on }, () => got<StandInCable[]>(api.ports.lamps.$put({ json: { port, on } })))
const seat = (port: string, seat: ClipSeat) =>
  change(port, { clip: seat }, () => got<StandInCable[]>(api.ports.clips.$put({ json: { port, seat } })))
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
      class="mb-2 max-w-105"
      clearable
      placeholder="Find a port: a name, a unit, a USB number"
      :input-props="{ 'aria-label': 'Find a port' }"
    />
    <p v-if="wanted && bench.ports?.length && !ports.length" class="soft" role="status">
      No port is called that.
    </p>
    <ListTable
      v-if="ports.length"
      :rows="ports"
      :columns="columns"
      :key-of="({ id }) => id"
      :group-of="({ kind }) => whose[kind]"
      :row-props="({ id }) => ({ 'data-port': id })"
      :leads="false"
      label="Ports"
      searched
    >
      <template #port="{ row: port }"
        ><b :class="{ mono: port.kind === 'serial' }">{{ port.name }}</b></template
      >
      <template #converter="{ row: port }">
        <span v-if="port.isMeter">meter of this bench</span>
        <template v-if="port.usb?.vendorId">
          USB <span class="mono">{{ port.usb.vendorId }}:{{ port.usb.productId }}</span>
          <small>{{
            [adapterOf(port.usb)?.name, port.usb.maker, port.usb.serialNumber].filter(Boolean).join(', ')
          }}</small>
        </template>
        <template v-else-if="!port.isMeter">{{ port.kind === 'stand-in' ? 'none' : 'not told' }}</template>
      </template>
      <template #held="{ row: port }">{{ holder(port) }}</template>
      <template #trace="{ row: port }">
        <RouterLink :to="{ name: 'trace', query: { port: port.id } }">Trace</RouterLink>
        <small>{{ port.channel === 'usb' ? 'USB device' : 'serial line' }}</small>
        <AdapterSays v-if="port.channel === 'usb' && !port.heldBy" :port="port.id" :name="port.name" />
      </template>
    </ListTable>
    <p v-if="bench.ports && !bench.ports.length" class="soft">No port is there. Plug the adapter in.</p>

    <BenchMeterForm />

    <section v-if="lend.canSerial || lend.canUsb" class="mt-7.5">
      <h2>Lend a port of the computer you sit at</h2>
      <p class="small soft">
        For when the program runs on another computer. It lasts as long as this page is open; closing it is
        pulling the plug.
      </p>
      <div class="flex mt-1.5 mb-3 gap-3 flex-wrap">
        <NButton v-if="lend.canSerial" :loading="lending.busy.value" @click="lendNow(lend.lendSerial)"
          >Lend a serial port</NButton
        >
        <NButton v-if="lend.canUsb" :loading="lending.busy.value" @click="lendNow(lend.lendUsb)"
          >Lend a USB device</NButton
        >
      </div>
      <ProblemNote v-if="lending.problem.value" :problem="lending.problem.value" />
      <p v-if="lend.lost" role="alert">{{ lend.lost }}</p>
      <ul v-if="lend.lent.size" class="mt-1.5 mb-4 mx-0 p-0 list-none columns-2 phone:columns-1">
        <li
          v-for="each in lend.lent.values()"
          :key="each.id"
          class="flex gap-y-0 gap-x-4.5 flex-wrap items-center min-h-11"
        >
          {{ each.name }}
          <NButton size="small" @click="lend.takeBack(each.id)">Stop lending</NButton>
        </li>
      </ul>
    </section>

    <section v-if="ownCables.length" class="mt-7.5">
      <h2>Cables of the stand-ins</h2>
      <p class="small soft">
        Pull one, as a hand would, to see what the program makes of it; light a lamp at a battery, and see the
        supply sag; seat a clip badly, and see it refused.
      </p>
      <ul class="mt-1.5 mb-4 mx-0 p-0 list-none columns-2 phone:columns-1">
        <li
          v-for="cable in ownCables"
          :key="cable.id"
          class="flex gap-y-0 gap-x-4.5 flex-wrap items-center min-h-11"
        >
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
            class="w-55"
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
