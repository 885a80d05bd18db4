<script setup lang="ts">
import type { Station, StationId } from '@bench-wake/core/run'
import type { KnownUnit } from '@bench-wake/server'
import VerdictMark from '../VerdictMark.vue'
import { written } from '../written'

const { free = [] } = defineProps<{
  stations: Station[]
  unit: KnownUnit
  /** Earlier stations that may be opened again. */
  free?: readonly StationId[]
  /** The one that was opened again; null while the job's own is shown. */
  again?: StationId | null
}>()
defineEmits<{ open: [station: StationId] }>()
</script>

<template>
  <aside class="pt-6.5 pb-5 pl-6 phone:pt-4 phone:pb-1 phone:px-4" aria-label="Stations of the job">
    <h1 class="mb-0.5 mr-4 text-lead leading-[1.25]">
      <RouterLink class="no-underline" :to="{ name: 'unit', params: { id: unit.id } }">{{
        unit.name
      }}</RouterLink>
    </h1>
    <p class="mb-5 mr-4 small soft phone:mb-3">
      {{ unit.place }}, serial <span class="mono">{{ unit.serial }}</span>
    </p>
    <ol class="plain phone:grid phone:grid-cols-[repeat(7,1fr)]">
      <li
        v-for="station in stations"
        :key="station.id"
        class="pb-4.25 pl-7 pr-4.5 relative phone:pt-5 phone:pb-2 phone:px-0 phone:small"
        :class="[station.state, { again: again === station.id }]"
        :data-station="station.id"
        :aria-current="station.state === 'open' ? 'step' : undefined"
      >
        <VerdictMark
          class="absolute bg-paper left-0"
          :verdict="
            station.state === 'open' && station.verdict !== 'stop'
              ? 'open'
              : station.state === 'waiting'
                ? 'unknown'
                : station.verdict
          "
        />
        <button
          v-if="free.includes(station.id) && again !== station.id"
          type="button"
          class="reopen p-0 font-inherit text-inherit bg-transparent bare-border underline cursor-pointer"
          :aria-label="`${station.name}: open it again`"
          @click="$emit('open', station.id)"
        >
          {{ station.name }}
        </button>
        <template v-else>{{ station.name }}</template>
        <small class="block small font-400 soft wrap-anywhere phone:hidden">{{
          written(station.says)
        }}</small>
      </li>
    </ol>
    <slot />
  </aside>
</template>

<style scoped>
h1 {
  letter-spacing: 0;
}
li::before {
  content: '';
  position: absolute;
  left: 6px;
  top: 9px;
  bottom: -9px;
  width: 2px;
  background: var(--hull);
}
li.waiting {
  color: var(--soft);
}
li.waiting::before {
  background: repeating-linear-gradient(var(--hair) 0 4px, transparent 4px 8px);
}
li:last-child::before {
  display: none;
}
li > svg {
  top: 4px;
}
li.open {
  font-weight: 650;
}
li.again {
  background: var(--sheet);
}
.reopen {
  text-underline-offset: 3px;
  text-decoration-color: var(--hair);
}
.reopen:hover {
  text-decoration-color: currentcolor;
}
.reopen::before {
  content: '';
  position: absolute;
  inset: -6px 0 6px;
}
@media (max-width: 700px) {
  li::before {
    left: 7px;
    right: -7px;
    top: 7px;
    bottom: auto;
    width: auto;
    height: 2px;
  }
  li.waiting::before {
    background: repeating-linear-gradient(90deg, var(--hair) 0 4px, transparent 4px 8px);
  }
  li > svg {
    top: 0;
  }
}
</style>
