<script setup lang="ts">
import { hexText } from '@bench-wake/core/kernel'
import { wantedFuses, type Fuse, type WantedFuse } from '@bench-wake/core/link'
import type { DrivenLink } from '@bench-wake/core/family'
import { NButton, NSwitch } from 'naive-ui'
import { computed, inject } from 'vue'
import VerdictMark from '../VerdictMark.vue'
import { benchDesk } from './bench-inputs'

/** Fuse bytes bit by bit: as they were read, and as the job wants them. */
const { link, now } = defineProps<{ link: DrivenLink; now: readonly WantedFuse[] }>()
const desk = inject(benchDesk)!
const drive = computed(() => (link.drive.speaks === 'in-system' ? link.drive : null))
const said = computed(() => desk.say.fuses ?? [])
const rows = computed(() =>
  (drive.value?.fuses ?? []).map((fuse) => {
    const read = now.find(({ id }) => id === fuse.id)?.value
    const wanted = wantedFuses(drive.value!, said.value).find(({ id }) => id === fuse.id)?.value
    return { fuse, read, wanted, value: wanted ?? read }
  }),
)
function put(fuse: Fuse, value: number | null) {
  const others = said.value.filter(({ id }) => id !== fuse.id)
  desk.say.fuses = value === null ? others : [...others, { id: fuse.id, value }]
  desk.keep('fuses')
}
const flip = ({ fuse, value }: (typeof rows.value)[number], bit: number, on: boolean) =>
  put(fuse, on ? value! | (1 << bit) : value! & ~(1 << bit))
const isOn = (value: number, bit: number) => ((value >> bit) & 1) === 1
const changed = ({ read, value }: (typeof rows.value)[number], bit: number) =>
  read !== undefined && value !== undefined && isOn(read, bit) !== isOn(value, bit)
const shuts = (value: number, { bit, locksOutAt }: Fuse['bits'][number]) =>
  locksOutAt !== undefined && isOn(value, bit) === (locksOutAt === 1)
</script>

<template>
  <div class="grid gap-4.5">
    <section v-for="row in rows" :key="row.fuse.id" :data-fuse="row.fuse.id">
      <h4 class="mb-1.5">
        {{ row.fuse.name }}
        <span class="soft font-400">
          <template v-if="row.read === undefined">not read yet</template>
          <template v-else>reads <span class="mono">{{ hexText(row.read) }}</span></template
          ><template v-if="row.wanted !== undefined && row.wanted !== row.read"
            >, the job wants <span class="mono">{{ hexText(row.wanted) }}</span></template
          >
        </span>
      </h4>
      <p v-if="row.value === undefined" class="small soft">Read the unit first: then each bit is shown.</p>
      <ul v-else class="mt-0 mb-2 mx-0 p-0 list-none">
        <li v-for="bit in row.fuse.bits" :key="bit.bit" class="flex gap-3.5 items-center min-h-11">
          <NSwitch
            :value="isOn(row.value, bit.bit)"
            :aria-label="`${row.fuse.name}, ${bit.name}`"
            @update:value="flip(row, bit.bit, $event)"
          />
          <div>
            <b>{{ bit.name }}</b
            ><span class="soft"
              >, bit {{ bit.bit }} is {{ isOn(row.value, bit.bit) ? 1 : 0
              }}<template v-if="row.read !== undefined && changed(row, bit.bit)"
                >, was {{ isOn(row.read, bit.bit) ? 1 : 0 }}</template
              ></span
            >
            <small v-if="shuts(row.value, bit)" class="block text-hold font-600">
              <VerdictMark verdict="hold" quiet :size="14" />
              {{ isOn(row.value, bit.bit) ? bit.set : bit.clear }}. After this nobody gets in over this port.
            </small>
            <small v-else class="block">
              {{ isOn(row.value, bit.bit) ? bit.set : bit.clear }}.
              <template v-if="bit.locksOutAt !== undefined"
                >At {{ bit.locksOutAt }} this port is shut for good.</template
              >
            </small>
          </div>
        </li>
      </ul>
      <NButton v-if="said.some(({ id }) => id === row.fuse.id)" size="small" @click="put(row.fuse, null)"
        >Back to what the profile says</NButton
      >
    </section>
  </div>
</template>
