import { defineStore } from 'pinia'
import { ref } from 'vue'

/** A profile that is to become a new family: carried from where it was begun to the editor. */
export const useDraft = defineStore('draft', () => ({
  document: ref<unknown>(null),
  /** What was left out of it because it is about other equipment. */
  leftOut: ref<string[]>([]),
}))
