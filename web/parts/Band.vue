<script setup lang="ts">
import { clockText } from '@bench-wake/core/kernel'
import { stripOf } from '@bench-wake/core/record'
import { useEventListener } from '@vueuse/core'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import IconDeviceDesktop from '~icons/tabler/device-desktop'
import IconMoon from '~icons/tabler/moon'
import IconSun from '~icons/tabler/sun'
import IconUser from '~icons/tabler/user'
import IconVolume from '~icons/tabler/volume'
import IconVolumeOff from '~icons/tabler/volume-off'
import { useAccess } from '../stores/access'
import { answers } from '../stores/api'
import { useLive } from '../stores/live'
import { useLook } from '../stores/look'
import LaptopNote from './LaptopNote.vue'
import ToolTip from './ToolTip.vue'
import VerdictMark from './VerdictMark.vue'
import WakeStrip from './WakeStrip.vue'

const CommandBox = defineAsyncComponent(() => import('./CommandBox.vue'))
const KeysNote = defineAsyncComponent(() => import('./KeysNote.vue'))

const look = useLook()
const live = useLive()
const access = useAccess()
const finding = ref(false)
const keysShown = ref(false)
/** It answers again a moment ago. */
const back = ref(false)
watch(answers, (now) => {
  back.value = now
  if (now) setTimeout(() => (back.value = false), 6000)
})

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
  const typing = (event.target as HTMLElement | null)?.closest('input, textarea, [contenteditable]')
  if (event.key === '?' && !typing && !event.defaultPrevented && !finding.value) keysShown.value = true
  if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey)) return
  event.preventDefault()
  finding.value = true
})
</script>

<template>
  <header
    class="band flex px-6 gap-y-0 gap-x-5 flex-wrap items-center min-h-12 line-b narrow:pt-1 narrow:pb-0 narrow:px-4 narrow:gap-y-1 narrow:gap-x-4 narrow:flex-wrap"
    :class="{ many: live.running.length > 1 }"
  >
    <RouterLink class="mark flex gap-2.25 items-center font-700 no-underline min-h-11 narrow:mr-auto" to="/">
      <svg width="26" height="18" viewBox="0 0 26 18" aria-hidden="true">
        <path d="M1 9h7M8 9 25 1M8 9l17 8" fill="none" stroke="var(--brass)" stroke-width="2" />
        <path d="M13 9h12" stroke="var(--ink)" stroke-width="2" />
      </svg>
      <span class="name">Bench Wake</span>
    </RouterLink>
    <nav class="places flex gap-5.5 narrow:w-full narrow:justify-between" aria-label="Places">
      <RouterLink
        v-for="place in places"
        :key="place.name"
        class="pt-3 pb-2.5 px-0 soft no-underline"
        :to="{ name: place.name }"
        :class="{ here: place.under.includes(String($route.name)) }"
        :aria-current="place.under.includes(String($route.name)) ? 'page' : undefined"
      >
        {{ place.says }}
      </RouterLink>
    </nav>
    <div
      class="now flex ml-auto gap-4.5 items-center small soft min-w-0 narrow:m-0 narrow:w-full narrow:overflow-x-auto"
      role="status"
      aria-live="off"
    >
      <span v-if="live.running.length === 0">nothing running</span>
      <RouterLink
        v-for="{ id, state, leftMs } in live.running"
        :key="id"
        class="flex gap-3 items-center no-underline whitespace-nowrap min-h-11"
        :to="{ name: 'job', params: { id: state.facts.job.id } }"
      >
        <WakeStrip
          :strip="stripOf(state)"
          :width="120"
          :height="18"
          :label="`Run on ${state.facts.unit.name}`"
        />
        <span>
          <VerdictMark v-if="state.supplyWarning" verdict="hold" class="mr-1.5" /><b
            class="text-ink font-600"
            >{{ state.facts.unit.name }}</b
          >
          {{ state.prompt ? 'asks you' : state.open === null ? 'starting' : state.steps[state.open]!.kind
          }}<template v-if="!state.prompt">, {{ clockText(leftMs) }} left</template>
        </span>
      </RouterLink>
    </div>
    <ToolTip :says="look.name || 'Who works here?'">
      <RouterLink
        class="tool grid my-0 -mx-2.5 place-items-center w-11 h-11 soft bg-transparent bare-border cursor-pointer"
        :to="{ name: 'who' }"
        :aria-label="look.name ? `${look.name} works here: change` : 'Who works here?'"
      >
        <IconUser class="w-5 h-5" />
      </RouterLink>
    </ToolTip>
    <ToolTip :says="look.sound ? 'Mute' : 'Sound on'">
      <button
        class="tool grid my-0 -mx-2.5 place-items-center w-11 h-11 soft bg-transparent bare-border cursor-pointer"
        type="button"
        :aria-label="look.sound ? 'Sound is on: mute' : 'Sound is off: switch on'"
        @click="look.sound = !look.sound"
      >
        <IconVolume v-if="look.sound" class="w-5 h-5" /><IconVolumeOff v-else class="w-5 h-5" />
      </button>
    </ToolTip>
    <ToolTip :says="`Light: ${look.wanted}`">
      <button
        class="tool grid my-0 -mx-2.5 place-items-center w-11 h-11 soft bg-transparent bare-border cursor-pointer"
        type="button"
        :aria-label="`Light: ${look.wanted}. Change to ${nextLight}`"
        @click="look.wanted = nextLight"
      >
        <IconSun v-if="look.wanted === 'day'" class="w-5 h-5" /><IconMoon
          v-else-if="look.wanted === 'night'"
          class="w-5 h-5"
        /><IconDeviceDesktop v-else class="w-5 h-5" />
      </button>
    </ToolTip>
    <button
      class="flex py-0 px-2.5 gap-6 justify-between items-center font-inherit small soft bg-transparent line-a-edge rounded min-h-9 cursor-pointer"
      type="button"
      @click="finding = true"
    >
      <span>Search<span class="narrow:hidden"> or run a command</span></span
      ><kbd class="font-inherit narrow:hidden">{{ isMac ? '⌘ K' : 'Ctrl K' }}</kbd>
    </button>
    <p v-if="access.state?.encrypted === false" class="row py-2 w-full line-t small">
      <VerdictMark verdict="hold" quiet /> Others in this network can reach this program, and nothing is
      encrypted: whoever is in it can read along.
    </p>
    <p v-if="!answers" class="row py-2 w-full line-t" role="alert">
      <VerdictMark verdict="hold" quiet /> <b>Bench Wake does not answer.</b> What you typed stays here. It is
      asked again every second; a write that is under way goes on without this page.
    </p>
    <p v-else-if="back" class="row py-2 w-full line-t" role="status">
      Bench Wake answers again. What was pressed meanwhile was not done: press it again.
    </p>
    <p v-if="live.damaged > 0" class="row py-2 w-full line-t small">
      <VerdictMark verdict="hold" quiet /> Damaged in the data: {{ live.damaged }}.
      <RouterLink :to="{ name: 'data' }">See which</RouterLink>
    </p>
    <LaptopNote v-if="live.running.length > 0" />
    <CommandBox v-if="finding" @close="finding = false" @keys="keysShown = true" />
    <KeysNote v-if="keysShown" @close="keysShown = false" />
  </header>
</template>

<style scoped>
.places a {
  border-bottom: 3px solid transparent;
}
.places a.here {
  color: var(--ink);
  border-color: var(--brass);
}
.tool:hover {
  color: var(--ink);
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
}
@media (max-width: 900px) {
  .now {
    order: 9;
  }
  .places {
    order: 5;
  }
}
</style>
