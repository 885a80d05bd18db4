<script setup lang="ts">
import type { Isolation } from '@bench-wake/core/family'
import { isolationNow, type IsolationSay } from '@bench-wake/core/ready'
import { NButton, NCheckbox } from 'naive-ui'
import { computed, inject, ref } from 'vue'
import { api, got } from '../../stores/api'
import PortChoice from '../PortChoice.vue'
import ProblemNote from '../ProblemNote.vue'
import { useAsked } from '../useAsked'
import { agoText } from '../words'
import AddressSwitch from './AddressSwitch.vue'
import { benchDesk } from './bench-inputs'

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
  <ul v-if="isolation?.neighbours.length" class="neighbours">
    <li v-for="each in isolation.neighbours" :key="each.id">
      <NCheckbox
        :checked="say.unplugged?.includes(each.id) ?? false"
        @update:checked="(off) => unplug(each.id, off)"
        >{{ each.unplug }}</NCheckbox
      >
    </li>
  </ul>
  <div class="two">
    <figure v-if="isolation?.switch">
      <figcaption>
        The {{ isolation.switch.name }}. {{ isolation.switch.says }} The word under each lever is how it must
        stand.
      </figcaption>
      <AddressSwitch
        :name="isolation.switch.name"
        :stands="isolation.switch.stands"
        :levers="say.levers ?? null"
        @flip="flip"
      />
      <p><button class="plain" type="button" @click="asDrawn">It stands as drawn</button></p>
    </figure>
    <div v-if="isolation?.scan">
      <p class="small soft">
        Ask every address from {{ isolation.scan.from }} to {{ isolation.scan.to }} who is there:
      </p>
      <div class="scan">
        <PortChoice v-model="port" :unit-id="unitId" />
        <NButton :disabled="!port" :loading="busy" @click="scan">Scan the bus</NButton>
      </div>
      <template v-if="say.scanned">
        <ul class="addresses" aria-label="Addresses on the bus">
          <li
            v-for="{ address, units } in addresses"
            :key="address"
            :class="{ there: units === 1, many: units > 1 }"
          >
            <b class="mono">{{ address }}</b
            ><small>{{ units === 0 ? 'silent' : units === 1 ? 'a unit' : 'noise: two' }}</small>
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
.neighbours {
  list-style: none;
  margin: 4px 0 10px;
  padding: 0;
}
.two {
  display: flex;
  flex-wrap: wrap;
  gap: 20px 40px;
}
figure {
  margin: 0;
  max-width: 260px;
}
figcaption {
  font-size: 13px;
  color: var(--soft);
  margin-bottom: 8px;
}
.scan {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin: 6px 0;
}
.addresses {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 0;
  margin: 8px 0 4px;
}
.addresses li {
  min-width: 58px;
  padding: 4px 8px;
  border: 1px dashed var(--edge);
  border-radius: 3px;
  text-align: center;
}
.addresses small {
  display: block;
  font-size: 13px;
  color: var(--soft);
}
.addresses .there {
  border: 2px solid var(--go);
}
.addresses .many {
  border: 2px solid var(--stop);
}
.plain {
  font: inherit;
  color: inherit;
  background: none;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 0 14px;
  min-height: 44px;
  margin-top: 8px;
  cursor: pointer;
}
</style>
