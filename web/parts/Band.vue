<script setup lang="ts">
import { clockText } from '@bench-wake/core/kernel'
import { stripOf } from '@bench-wake/core/record'
import { IconDeviceDesktop, IconMoon, IconSun, IconUser, IconVolume, IconVolumeOff } from '@tabler/icons-vue'
import { useEventListener } from '@vueuse/core'
import { computed, defineAsyncComponent, ref } from 'vue'
import { useAccess } from '../stores/access'
import { useLive } from '../stores/live'
import { useLook } from '../stores/look'
import LaptopNote from './LaptopNote.vue'
import VerdictMark from './VerdictMark.vue'
import WakeStrip from './WakeStrip.vue'

const CommandBox = defineAsyncComponent(() => import('./CommandBox.vue'))

const look = useLook()
const live = useLive()
const access = useAccess()
const finding = ref(false)

const places = [
  { name: 'today', says: 'Today', under: ['today', 'job', 'entry', 'card', 'kit'] },
  { name: 'units', says: 'Units', under: ['units', 'unit', 'families', 'family', 'rounds', 'case', 'log'] },
  { name: 'shelf', says: 'Shelf', under: ['shelf', 'image', 'fits', 'compare'] },
  { name: 'drill', says: 'Drill', under: ['drill', 'practice', 'certificate'] },
  { name: 'logbook', says: 'Logbook', under: ['logbook', 'record'] },
]
const lights = ['system', 'day', 'night'] as const
const nextLight = computed(() => lights[(lights.indexOf(look.wanted) + 1) % lights.length]!)
const isMac = /Mac|iP(hone|ad)/.test(navigator.platform)

useEventListener('keydown', (event) => {
  if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return
  event.preventDefault()
  finding.value = true
})
</script>

<template>
  <header class="band" :class="{ many: live.running.length > 1 }">
    <RouterLink class="mark" to="/">
      <svg width="26" height="18" viewBox="0 0 26 18" aria-hidden="true">
        <path d="M1 9h7M8 9 25 1M8 9l17 8" fill="none" stroke="var(--brass)" stroke-width="2" />
        <path d="M13 9h12" stroke="var(--ink)" stroke-width="2" />
      </svg>
      <span class="name">Bench Wake</span>
    </RouterLink>
    <nav class="places" aria-label="Places">
      <RouterLink
        v-for="place in places"
        :key="place.name"
        :to="{ name: place.name }"
        :class="{ here: place.under.includes(String($route.name)) }"
        :aria-current="place.under.includes(String($route.name)) ? 'page' : undefined"
      >
        {{ place.says }}
      </RouterLink>
    </nav>
    <div class="now" role="status" aria-live="off">
      <span v-if="live.running.length === 0">nothing running</span>
      <RouterLink
        v-for="{ id, state, leftMs } in live.running"
        :key="id"
        class="run"
        :to="{ name: 'job', params: { id: state.facts.job.id } }"
      >
        <WakeStrip
          :strip="stripOf(state)"
          :width="120"
          :height="18"
          :label="`Run on ${state.facts.unit.name}`"
        />
        <span>
          <VerdictMark v-if="state.supplyWarning" verdict="hold" class="falls" /><b>{{
            state.facts.unit.name
          }}</b>
          {{ state.prompt ? 'asks you' : state.open === null ? 'starting' : state.steps[state.open]!.kind
          }}<template v-if="!state.prompt">, {{ clockText(leftMs) }} left</template>
        </span>
      </RouterLink>
    </div>
    <RouterLink
      class="tool who"
      :to="{ name: 'who' }"
      :aria-label="look.name ? `${look.name} works here: change` : 'Who works here?'"
      :title="look.name || 'Who works here?'"
    >
      <IconUser :size="20" />
    </RouterLink>
    <button
      class="tool"
      type="button"
      :aria-label="look.sound ? 'Sound is on: mute' : 'Sound is off: switch on'"
      :title="look.sound ? 'Mute' : 'Sound on'"
      @click="look.sound = !look.sound"
    >
      <IconVolume v-if="look.sound" :size="20" /><IconVolumeOff v-else :size="20" />
    </button>
    <button
      class="tool"
      type="button"
      :aria-label="`Light: ${look.wanted}. Change to ${nextLight}`"
      :title="`Light: ${look.wanted}`"
      @click="look.wanted = nextLight"
    >
      <IconSun v-if="look.wanted === 'day'" :size="20" /><IconMoon
        v-else-if="look.wanted === 'night'"
        :size="20"
      /><IconDeviceDesktop v-else :size="20" />
    </button>
    <button class="find" type="button" @click="finding = true">
      <span>Search<span class="more"> or run a command</span></span
      ><kbd>{{ isMac ? '⌘ K' : 'Ctrl K' }}</kbd>
    </button>
    <p v-if="access.state?.encrypted === false" class="row">
      <VerdictMark verdict="hold" quiet /> Others in this network can reach this program, and nothing is
      encrypted: whoever is in it can read along.
    </p>
    <p v-if="live.damaged > 0" class="row">
      <VerdictMark verdict="hold" quiet /> {{ live.damaged }} row(s) of the data could not be read.
      <RouterLink :to="{ name: 'data' }">See which</RouterLink>
    </p>
    <LaptopNote v-if="live.running.length > 0" />
    <CommandBox v-if="finding" @close="finding = false" />
  </header>
</template>

<style scoped>
.band {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 20px;
  min-height: 48px;
  padding: 0 24px;
  border-bottom: 1px solid var(--hair);
}
.mark {
  display: flex;
  align-items: center;
  gap: 9px;
  font-weight: 700;
  text-decoration: none;
  min-height: 44px;
}
.places {
  display: flex;
  gap: 22px;
}
.places a {
  color: var(--soft);
  text-decoration: none;
  padding: 12px 0 10px;
  border-bottom: 3px solid transparent;
}
.places a.here {
  color: var(--ink);
  border-color: var(--brass);
}
.now {
  margin-left: auto;
  display: flex;
  align-items: center;
  gap: 18px;
  font-size: 13px;
  color: var(--soft);
  min-width: 0;
}
.run {
  display: flex;
  align-items: center;
  gap: 12px;
  text-decoration: none;
  white-space: nowrap;
  min-height: 44px;
}
.run b {
  color: var(--ink);
  font-weight: 600;
}
.tool {
  display: grid;
  place-items: center;
  width: 44px;
  height: 44px;
  margin: 0 -10px;
  color: var(--soft);
  background: none;
  border: 0;
  cursor: pointer;
}
.tool:hover {
  color: var(--ink);
}
.find {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 24px;
  font: inherit;
  font-size: 13px;
  color: var(--soft);
  background: none;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 0 10px;
  min-height: 36px;
  cursor: pointer;
}
kbd {
  font: inherit;
}
/* Several runs have a row of their own below the places. */
.band.many .now {
  order: 9;
  width: 100%;
  margin: 0;
  flex-wrap: wrap;
  gap: 0 28px;
  border-top: 1px solid var(--hair);
}
.band.many .tool:first-of-type {
  margin-left: auto;
}
.row {
  order: 10;
  width: 100%;
  border-top: 1px solid var(--hair);
  padding: 8px 0;
  font-size: 13px;
}
.falls {
  margin-right: 6px;
}
@media (max-width: 900px) {
  .find .more {
    display: none;
  }
  .band {
    flex-wrap: wrap;
    gap: 4px 16px;
    padding: 4px 16px 0;
  }
  .now {
    order: 9;
    width: 100%;
    margin: 0;
    overflow-x: auto;
  }
  .places {
    order: 5;
    width: 100%;
    justify-content: space-between;
  }
  .mark {
    margin-right: auto;
  }
  .find kbd {
    display: none;
  }
}
</style>
