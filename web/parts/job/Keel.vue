<script setup lang="ts">
import type { Station } from '@bench-wake/core/run'
import type { KnownUnit } from '@bench-wake/server'
import VerdictMark from '../VerdictMark.vue'

defineProps<{ stations: Station[]; unit: KnownUnit }>()
</script>

<template>
  <aside class="keel" aria-label="Stations of the job">
    <h1>
      <RouterLink :to="{ name: 'unit', params: { id: unit.id } }">{{ unit.name }}</RouterLink>
    </h1>
    <p class="sub">
      {{ unit.place }}, serial <span class="mono">{{ unit.serial }}</span>
    </p>
    <ol>
      <li
        v-for="station in stations"
        :key="station.id"
        :class="station.state"
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
        {{ station.name }}
        <small>{{ station.says }}</small>
      </li>
    </ol>
  </aside>
</template>

<style scoped>
.keel {
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
small {
  display: block;
  font-size: 13px;
  font-weight: 400;
  color: var(--soft);
  overflow-wrap: anywhere;
}
@media (max-width: 700px) {
  .keel {
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
