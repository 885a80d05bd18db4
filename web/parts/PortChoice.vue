<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, watch } from 'vue'
import { useBench } from '../stores/bench'
import PickOne from './PickOne.vue'

/** Chooses the port: the unit's own stand-in first, then the only real one; a port that is plugged in shows by itself. */
const port = defineModel<string | null>({ required: true })
const { unitId, channel, only } = defineProps<{
  unitId: string
  /** The one port that is chosen by itself when it is there: after a write that was cut no other is guessed. */
  only?: string
  /** What the link goes over; ports of the other kind are not offered. Either where nothing is said. */
  channel?: 'serial' | 'usb'
}>()
const bench = useBench()

const kept = () => localStorage.getItem(`bench-wake.port.${unitId}`)
const ports = computed(() =>
  (bench.ports ?? []).filter((each) => !channel || each.unitId === unitId || each.channel === channel),
)

onMounted(() => bench.loadPorts().catch(() => {}))
useIntervalFn(() => void bench.loadPorts().catch(() => {}), 4000)

watch(
  ports,
  (list) => {
    if (port.value && list.some(({ id }) => id === port.value)) return
    if (only !== undefined) {
      port.value = list.some(({ id }) => id === only) ? only : null
      return
    }
    const real = list.filter(({ kind }) => kind !== 'stand-in')
    const first =
      list.find(({ id }) => id === kept()) ??
      list.find((each) => each.unitId === unitId) ??
      (real.length === 1 ? real[0] : undefined)
    port.value = first?.id ?? null
  },
  { immediate: true },
)
watch(port, (id) => id && localStorage.setItem(`bench-wake.port.${unitId}`, id))

const words = ({ name, usb, heldBy, program }: (typeof ports.value)[number]) =>
  [
    name,
    usb?.vendorId && `USB ${usb.vendorId}:${usb.productId}`,
    heldBy && 'in use',
    program && `held by ${program}`,
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <PickOne
    v-model:value="port"
    class="port"
    label="Port"
    :options="ports.map((each) => ({ value: each.id, label: words(each) }))"
    :placeholder="ports.length ? 'Choose the port' : 'No port is there: plug the adapter in'"
  />
</template>

<style scoped>
.port {
  width: min(340px, 100%);
}
</style>
