import type { Family } from '@bench-wake/core/family'
import { operationTrials, scripted, type KeptTrial, type OperationTrial } from '@bench-wake/core/ready'
import { computed, onMounted, shallowRef, type Ref } from 'vue'
import { api, got } from '../../stores/api'

/**
 * Where each operation of a family's scripted links was proved, by the link, as its steps stand on the page now. They come
 * beside the profile: it is shown without them, and they come when they come.
 * @param id of a family that is kept; null for a new one.
 * @param family as it reads now; nothing while it does not.
 */
export function useTrials(id: string | null, family: Readonly<Ref<Family | null | undefined>>) {
  const kept = shallowRef<readonly KeptTrial[] | null>(null)
  onMounted(async () => {
    if (id === null) return
    kept.value = await got<KeptTrial[]>(api.families[':id'].trials.$get({ param: { id } })).catch(() => null)
  })
  return computed(() => {
    const byLink = new Map<string, readonly OperationTrial[]>()
    for (const each of (kept.value && family.value?.links) ?? []) {
      const link = scripted(each)
      if (link) byLink.set(link.id, operationTrials(link, kept.value!))
    }
    return byLink
  })
}
