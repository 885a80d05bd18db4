import { shallowRef } from 'vue'

/** What was done a moment ago, in a word to the person; each stands for itself, the same one twice too. */
export const said = shallowRef<{ text: string } | null>(null)

/** Tells a person what has been done, where the screen itself would not show it. */
export function tell(text: string): void {
  said.value = { text }
}
