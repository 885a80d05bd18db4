import { onHardware } from '@bench-wake/core/family'
import type { Adapter } from '@bench-wake/core/ready'
import type { JobView } from '@bench-wake/server'
import { computed, onMounted, shallowRef } from 'vue'
import { familyOf } from '../family-of'
import { api, got } from '../../stores/api'
import { useBench } from '../../stores/bench'
import { useAsked } from '../useAsked'

/** A job with its family and the adapters, for the screens beside its stations. */
export function useJobBench(id: string) {
  const bench = useBench()
  const view = shallowRef<JobView | null>(null)
  const adapters = shallowRef<Adapter[]>([])
  const { problem, ask } = useAsked()
  onMounted(() =>
    ask(async () => {
      const [job, drawer] = await Promise.all([
        got<JobView>(api.jobs[':id'].$get({ param: { id } })),
        got<Adapter[]>(api.adapters.$get()),
        bench.loadFamilies(),
      ])
      adapters.value = drawer
      view.value = job
    }),
  )
  const family = computed(() => {
    const document = bench.families?.find((each) => each.id === view.value?.unit.familyId)
    return document && view.value ? onHardware(familyOf(document), view.value.unit.facts.hardwareMajor) : null
  })
  return { view, adapters, family, problem, ask }
}
