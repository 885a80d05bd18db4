<script setup lang="ts">
import type { Isolation } from '@bench-wake/core/family'
import { isolationNow, type IsolationSay } from '@bench-wake/core/ready'
import { NButton, NCheckbox } from 'naive-ui'
import { computed, inject, ref } from 'vue'
import { api, got } from '../../stores/api'
import PortChoice from '../PortChoice.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import AddressSwitch from './AddressSwitch.vue'
import { benchDesk } from './bench-inputs'
import { agoText, written } from '../written'

/** One unit on the bus: neighbours taken off, the address switch as it must stand, and a count (PRACTICE F4). */
const { isolation, jobId, unitId } = defineProps<{
  /** Absent where the profile does not describe what else may hang there. */
  isolation: Isolation | undefined
  jobId: string
  unitId: string
}>()
const emit = defineEmits<{ said: [] }>()
const desk = inject(benchDesk)!
const say = computed<IsolationSay>(() => isolationNow(desk.say) ?? {})
const set = (more: Partial<IsolationSay>) => {
  desk.say.isolation = { ...say.value, ...more }
  // Who says anew what is off answers for what came back before.
  if (desk.say.back?.length) {
    desk.say.back = []
    desk.keep('back')
  }
  desk.keep('isolation')
}
const unplug = (id: string, off: boolean) => {
  const before = say.value.unplugged ?? []
  // Who plugs or unplugs makes an older count worthless.
  set({ unplugged: off ? [...before, id] : before.filter((each) => each !== id), scanned: null })
}
const flip = (index: number) => {
  const wanted = isolation!.switch!.stands
  const before = say.value.levers ?? wanted.map(() => false)
  set({ levers: wanted.map((_, at) => (at === index ? !before[at] : (before[at] ?? false))) })
}
const asDrawn = () => set({ levers: [...isolation!.switch!.stands] })

const port = ref<string | null>(null)
const { busy, problem, ask } = useAsked()
const scan = () =>
  ask(async () => {
    // The scan rests on what was unplugged: that is on the server first.
    await desk.flush()
    const { scanned } = await got<{ scanned: NonNullable<IsolationSay['scanned']> }>(
      api.jobs[':id'].scan.$post({ param: { id: jobId }, json: { port: port.value! } }),
    )
    desk.say.isolation = { ...say.value, scanned }
    emit('said')
  })
const addresses = computed(() => {
  const range = isolation?.scan
  if (!range) return []
  return Array.from({ length: range.to - range.from + 1 }, (_, at) => {
    const address = range.from + at
    const units = say.value.scanned?.found.filter((each) => each === address).length ?? 0
    return { address, units }
  })
})
</script>

<template>
  <p v-if="isolation" class="lead small">{{ isolation.why }}</p>
  <ul v-if="isolation?.neighbours.length" class="mt-1 mb-2.5 mx-0 p-0 list-none">
    <li v-for="each in isolation.neighbours" :key="each.id">
      <NCheckbox
        :checked="say.unplugged?.includes(each.id) ?? false"
        @update:checked="(off) => unplug(each.id, off)"
        >{{ each.unplug }}</NCheckbox
      >
    </li>
  </ul>
  <div class="flex gap-y-5 gap-x-10 flex-wrap">
    <figure v-if="isolation?.switch" class="m-0 max-w-65">
      <figcaption class="mb-2 small soft">
        The {{ isolation.switch.name }}. {{ written(isolation.switch.says) }} The word under each lever is how
        it must stand.
      </figcaption>
      <AddressSwitch
        :name="isolation.switch.name"
        :stands="isolation.switch.stands"
        :levers="say.levers ?? null"
        @flip="flip"
      />
      <p>
        <button
          class="mt-2 py-0 px-3.5 font-inherit text-inherit bg-transparent line-a-edge rounded min-h-11 cursor-pointer"
          type="button"
          @click="asDrawn"
        >
          It stands as drawn
        </button>
      </p>
    </figure>
    <div v-if="isolation?.scan">
      <p class="small soft">
        Ask every address from {{ isolation.scan.from }} to {{ isolation.scan.to }} who is there:
      </p>
      <div class="flex my-1.5 gap-2.5 flex-wrap">
        <PortChoice v-model="port" :unit-id="unitId" />
        <NButton :disabled="!port" :loading="busy" @click="scan">Scan the bus</NButton>
      </div>
      <template v-if="say.scanned">
        <ul
          class="addresses flex mt-2 mb-1 mx-0 p-0 gap-1 list-none flex-wrap"
          aria-label="Addresses on the bus"
        >
          <li
            v-for="{ address, units } in addresses"
            :key="address"
            class="py-1 px-2 min-w-14.5 text-center"
            :class="{ there: units === 1, many: units > 1 }"
          >
            <b class="mono">{{ address }}</b
            ><small class="block small soft">{{
              units === 0 ? 'silent' : units === 1 ? 'a unit' : 'noise: two'
            }}</small>
          </li>
        </ul>
        <p class="small soft">Scanned {{ agoText(say.scanned.at) }}. A count holds for half an hour.</p>
      </template>
      <ProblemNote v-if="problem" :problem="problem" />
    </div>
  </div>
  <NCheckbox :checked="say.alone ?? false" @update:checked="(alone) => set({ alone })"
    >I looked: nothing else is joined</NCheckbox
  >
</template>

<style scoped>
.addresses li {
  border: 1px dashed var(--edge);
  border-radius: 3px;
}
.addresses .there {
  border: 2px solid var(--go);
}
.addresses .many {
  border: 2px solid var(--stop);
}
</style>
