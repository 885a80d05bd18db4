import { useMediaQuery, useStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, watchEffect } from 'vue'

/** How this person wants to see and hear it; kept in this browser. */
export const useLook = defineStore('look', () => {
  const wanted = useStorage<'system' | 'day' | 'night'>('bench-wake.light', 'system')
  const sound = useStorage('bench-wake.sound', true)
  /** Name that goes under releases and closings. */
  const name = useStorage('bench-wake.name', '')
  /** What a person went to by the search box, newest first: kind and words of each. */
  const used = useStorage<string[]>('bench-wake.used', [])
  const systemDark = useMediaQuery('(prefers-color-scheme: dark)')
  const light = computed(() =>
    wanted.value === 'system' ? (systemDark.value ? 'night' : 'day') : wanted.value,
  )
  watchEffect(() => {
    document.documentElement.dataset['light'] = light.value
  })
  return { wanted, light, sound, name, used }
})
