<script setup lang="ts">
import type { PortEntry } from '@bench-wake/server'
import { useIntervalFn } from '@vueuse/core'
import { NButton } from 'naive-ui'
import { computed, ref } from 'vue'
import { useBench } from '../stores/bench'

/** "Plug it in now": lists the ports, waits, lists again; the new one is it (PRACTICE C3). */
const emit = defineEmits<{ found: [port: string] }>()
const bench = useBench()
/** Asked this often, ms, and given up after so long. */
const everyMs = 1000
const patienceMs = 30_000

const before = ref<Set<string> | null>(null)
const left = ref(0)
const found = ref<PortEntry | null>(null)
const nothing = ref(false)

const { pause, resume } = useIntervalFn(() => void look(), everyMs, { immediate: false })
async function look() {
  left.value -= everyMs
  await bench.loadPorts().catch(() => {})
  const fresh = bench.ports?.find(({ id }) => before.value && !before.value.has(id))
  if (fresh) {
    found.value = fresh
    emit('found', fresh.id)
  } else if (left.value <= 0) nothing.value = true
  if (fresh || nothing.value) stop()
}
function stop() {
  pause()
  before.value = null
}
async function start() {
  found.value = null
  nothing.value = false
  await bench.loadPorts().catch(() => {})
  before.value = new Set(bench.ports?.map(({ id }) => id))
  left.value = patienceMs
  resume()
}
const waiting = computed(() => before.value !== null)
</script>

<template>
  <div class="flex gap-y-1.5 gap-x-3.5 flex-wrap items-center max-w-115" role="status">
    <NButton v-if="!waiting" quaternary @click="start">Which port is mine?</NButton>
    <template v-else>
      <b class="text-lead">Plug it in now.</b>
      <span class="soft">Waiting for a new port, {{ Math.ceil(left / 1000) }} s.</span>
      <NButton quaternary @click="stop">Cancel</NButton>
    </template>
    <p v-if="found">
      The new one is <b class="text-lead">{{ found.name }}</b
      ><span v-if="found.usb?.vendorId" class="mono">
        USB {{ found.usb.vendorId }}:{{ found.usb.productId }}</span
      >.
    </p>
    <p v-else-if="nothing">
      No new port came. The driver for that converter chip is missing, the cable only charges, or it was
      plugged in before: unplug it and ask again.
    </p>
  </div>
</template>
