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
  watch(against, async (revision) => {
    if (!revision || !history.value) {
      other.value = null
      return
    }
    await loading.ask(async () => {
      other.value = await got(
        api.families[':id'][':revision{[0-9]+}'].$get({
          param: { id: history.value!.document.id, revision },
        }),
      )
    })
  })
  const compared = computed(() =>
    other.value && document.value ? compareProfiles(other.value, document.value) : [],
  )
  return { against, other, compared }
}
