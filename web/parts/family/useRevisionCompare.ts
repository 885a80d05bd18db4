import { compareProfiles } from '@bench-wake/core/family'
import type { FamilyHistory } from '@bench-wake/server'
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { api, got } from '../../stores/api'
import type { useAsked } from '../useAsked'

/** What is shown of a profile, held against a kept revision of it that is chosen; `against` is '' for none. */
export function useRevisionCompare(
  history: Readonly<Ref<FamilyHistory | null>>,
  document: Readonly<Ref<unknown>>,
  loading: ReturnType<typeof useAsked>,
) {
  const against = ref('')
  const other = shallowRef<unknown>(null)
  watch(against, (revision) => {
    // What was compared before is no answer to what is chosen now.
    other.value = null
    if (!revision || !history.value) return
    const { id } = history.value.document
    void loading.askInTurn(async () => {
      const document = await got(api.families[':id'][':revision{[0-9]+}'].$get({ param: { id, revision } }))
      if (against.value === revision) other.value = document
    })
  })
  const compared = computed(() =>
    other.value && document.value ? compareProfiles(other.value, document.value) : [],
  )
  return { against, other, compared }
}
