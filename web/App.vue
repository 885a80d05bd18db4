<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { darkTheme, NConfigProvider } from 'naive-ui'
import { computed, defineAsyncComponent, onMounted } from 'vue'
import Band from './parts/Band.vue'
import SignIn from './parts/SignIn.vue'
import { useTurns } from './parts/useTurns'
import { useAccess } from './stores/access'
import { useLook } from './stores/look'
import { said } from './stores/said'
import { naiveTheme } from './theme/naive'
import { naiveWords } from './theme/naive-words'

/** Read as the first word is said: the start does without it. */
const SaidNotes = defineAsyncComponent(() => import('./parts/SaidNotes.vue'))
const look = useLook()
const access = useAccess()
// A program that does not answer is told by each screen in its own place.
onMounted(() => access.load().catch(() => {}))
/** A key that is held presses once: what comes under it next was not meant. Lines of a text are another matter. */
useEventListener(
  'keydown',
  (event) => {
    if (!event.repeat || event.key !== 'Enter' || event.target instanceof HTMLTextAreaElement) return
    event.preventDefault()
    event.stopImmediatePropagation()
  },
  { capture: true },
)
/** The band, then the screen. */
const drawn = useTurns(() => 2)
const theme = computed(() => (look.light === 'night' ? darkTheme : null))
</script>

<template>
  <NConfigProvider
    :theme="theme"
    :theme-overrides="naiveTheme[look.light]"
    :locale="naiveWords"
    class="shell"
    inline-theme-disabled
  >
    <a class="skip" href="#main">To the content</a>
    <Band v-if="drawn && !access.shut" class="band" />
    <main id="main" tabindex="-1">
      <SignIn v-if="access.shut" />
      <RouterView v-else-if="drawn > 1" :key="String($route.params['id'] ?? $route.name)" />
    </main>
    <p class="visually-hidden" role="status">{{ said?.text }}</p>
    <SaidNotes v-if="said" />
  </NConfigProvider>
</template>

<style>
.shell {
  min-height: 100%;
  display: grid;
  grid-template-rows: auto 1fr;
}
#main {
  min-width: 0;
  outline: none;
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 12px;
  top: 12px;
  z-index: 10;
  background: var(--paper);
  padding: 8px 12px;
}
</style>
