import type { AccessState } from '@bench-wake/server'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, got, whenSignedOut } from './api'
import { useLook } from './look'

/** Whether one has to sign in on this device, and who did. */
export const useAccess = defineStore('access', () => {
  const state = ref<AccessState | null>(null)
  const look = useLook()
  whenSignedOut(() => {
    if (state.value) state.value = { ...state.value, needed: true, session: null }
    else void load().catch(() => {})
  })
  async function load() {
    state.value = await got<AccessState>(api.access.$get())
    // Who is signed in is who works here, under every word.
    if (state.value.session) look.name = state.value.session.person
  }

  return {
    state,
    /** Nothing is shown before somebody has signed in. */
    shut: computed(() => state.value !== null && state.value.needed && state.value.session === null),
    load,
  }
})
