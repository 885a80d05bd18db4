<script setup lang="ts">
import type { Station, StationId } from '@bench-wake/core/run'
import type { KnownUnit } from '@bench-wake/server'
import VerdictMark from '../VerdictMark.vue'

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
  <aside class="stations" aria-label="Stations of the job">
    <h1>
      <RouterLink :to="{ name: 'unit', params: { id: unit.id } }">{{ unit.name }}</RouterLink>
    </h1>
    <p class="sub">{{ unit.place }}, serial <span class="mono">{{ unit.serial }}</span></p>
    <ol>
      <li
        v-for="station in stations"
        :key="station.id"
        :class="[station.state, { again: again === station.id }]"
        :data-station="station.id"
        :aria-current="station.state === 'open' ? 'step' : undefined"
      >
        <VerdictMark
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
          class="reopen"
          :aria-label="`${station.name}: open it again`"
          @click="$emit('open', station.id)"
        >
          {{ station.name }}
        </button>
        <template v-else>{{ station.name }}</template>
        <small>{{ station.says }}</small>
      </li>
    </ol>
    <slot />
  </aside>
</template>

<style scoped>
.stations {
  padding: 26px 0 20px 24px;
}
h1 {
  font-size: 18px;
  line-height: 1.25;
  letter-spacing: 0;
  margin: 0 16px 2px 0;
}
h1 a {
  text-decoration: none;
}
.sub {
  font-size: 13px;
  color: var(--soft);
  margin: 0 16px 20px 0;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  position: relative;
  padding: 0 18px 17px 28px;
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
  position: absolute;
  left: 0;
  top: 4px;
  background: var(--paper);
}
li.open {
  font-weight: 650;
}
li.again {
  background: var(--sheet);
}
.reopen {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  text-decoration: underline;
  text-underline-offset: 3px;
  text-decoration-color: var(--hair);
  cursor: pointer;
}
.reopen:hover {
  text-decoration-color: currentcolor;
}
.reopen::before {
  content: '';
  position: absolute;
  inset: -6px 0 6px;
}
small {
  display: block;
  font-size: 13px;
  font-weight: 400;
  color: var(--soft);
  overflow-wrap: anywhere;
}
@media (max-width: 700px) {
  .stations {
    padding: 16px 16px 4px;
  }
  ol {
    display: grid;
    grid-template-columns: repeat(7, 1fr);
  }
  li {
    padding: 20px 0 8px;
    font-size: 13px;
  }
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
  small {
    display: none;
  }
  .sub {
    margin-bottom: 12px;
  }
}
</style>
