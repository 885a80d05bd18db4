import { createPinia } from 'pinia'

/** What the start puts into the program beside its frame. */
export { namedColumns } from '../parts/named-columns'
export { router } from '../router'
export { useLook } from '../stores/look'
export const pinia = createPinia()
