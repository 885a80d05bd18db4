<script setup lang="ts">
import { drivenLink, type Family } from '@bench-wake/core/family'
import type { Finding, Release } from '@bench-wake/core/kernel'
import { linkOfJob, type Adapter, type Gate } from '@bench-wake/core/ready'
import type { JobView } from '@bench-wake/server'
import { computed, inject } from 'vue'
import { benchDesk } from './bench-inputs'
import BenchChip from './BenchChip.vue'
import BenchCard from './BenchCard.vue'
import BenchFuses from './BenchFuses.vue'
import BenchIsolation from './BenchIsolation.vue'
import BenchOrder from './BenchOrder.vue'
import BenchPart from './BenchPart.vue'
import BenchWiring from './BenchWiring.vue'
import UnitAsks from './UnitAsks.vue'
import CarriedNote from './CarriedNote.vue'
import { written } from '../written'

/** What a link rests on, in the order of the trade: order of power, wiring, isolation. */
const { view, family, gates, adapters, asked } = defineProps<{
  view: JobView
  family: Family
  gates: readonly Gate[]
  adapters: Adapter[]
  /** The part that holds the one next thing. */
  firstPart: string | null
  releases: readonly Release[]
  /** What is said above already. */
  shown: Finding | undefined
  /** True where the run asks for each step of power itself, and nothing is ticked here. */
  asked: boolean
}>()
defineEmits<{ release: [rule: string]; said: [] }>()
const desk = inject(benchDesk)!
const gateOf = (id: string) => gates.find((gate) => gate.id === id)
const asks = computed(() => linkOfJob(family, desk.say.wiring).medium?.update)
const driven = computed(() => drivenLink(family, linkOfJob(family, desk.say.wiring).id))
const onChip = computed(() => driven.value?.drive.speaks === 'spi-flash')
/** The link of the job, where it has fuse bytes. */
const fused = computed(() => {
  const link = driven.value
  return link?.drive.speaks === 'in-system' && link.drive.fuses ? link : null
})
const order = computed({
  get: () => desk.say.order ?? [],
  set: (done: string[]) => {
    desk.say.order = done
    desk.keep('order')
  },
})
</script>

<template>
  <CarriedNote :job-id="view.job.id" :family="family" :adapters="adapters" />
  <BenchPart
    v-if="asked || family.powerOrder?.on.length"
    name="Order of power"
    :gate="gateOf('order')"
    :first="firstPart === 'order'"
    :releases="releases"
    :shown="shown"
    @release="$emit('release', $event)"
  >
    <p v-if="asked" class="small soft">The run asks for each of these before it opens the port.</p>
    <p v-else-if="family.power.caution" class="small"><b>Caution.</b> {{ written(family.power.caution) }}</p>
    <BenchOrder v-model="order" :items="family.powerOrder?.on ?? []" :asked="asked" />
  </BenchPart>
  <BenchPart
    name="Wiring"
    :gate="gateOf('wiring')"
    :first="firstPart === 'wiring'"
    :releases="releases"
    :shown="shown"
    @release="$emit('release', $event)"
  >
    <BenchWiring
      :family="family"
      :adapters="adapters"
      :workshop-rules="view.workshopRules"
      :job-id="view.job.id"
    />
    <BenchChip v-if="onChip && view.job.task === 'write'" />
  </BenchPart>
  <BenchPart
    v-if="view.card"
    :name="view.card.medium[0]!.toUpperCase() + view.card.medium.slice(1)"
    :gate="gateOf('card')"
    :first="firstPart === 'card'"
    :releases="releases"
    :shown="shown"
    @release="$emit('release', $event)"
  >
    <BenchCard :job-id="view.job.id" :card="view.card" />
    <details v-if="asks" class="asks">
      <summary>What the unit will ask, {{ asks.prompts.length }} times</summary>
      <UnitAsks :update="asks" />
    </details>
  </BenchPart>
  <BenchPart
    v-if="fused"
    name="Fuses"
    :gate="gateOf('fuses')"
    :first="firstPart === 'fuses'"
    :releases="releases"
    :shown="shown"
    @release="$emit('release', $event)"
  >
    <BenchFuses :link="fused" :now="view.fusesNow" />
  </BenchPart>
  <BenchPart
    v-if="family.isolation || gateOf('isolation')?.findings.some(({ level }) => level !== 'go')"
    name="Isolation"
    :gate="gateOf('isolation')"
    :first="firstPart === 'isolation'"
    :releases="releases"
    :shown="shown"
    @release="$emit('release', $event)"
  >
    <BenchIsolation
      :isolation="family.isolation"
      :job-id="view.job.id"
      :unit-id="view.unit.id"
      @said="$emit('said')"
    />
  </BenchPart>
</template>
