import type { BenchInputs } from '@bench-wake/core/ready'
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, type InjectionKey } from 'vue'
import { api, got } from '../../stores/api'
import { useAsked } from '../useAsked'

type Part = keyof BenchInputs

/** What is said of a job's bench: all parts of the station write into one, and each sends only what it changed. */
export function useBenchSay(jobId: string, bench: BenchInputs, onSaid: () => void) {
  const say = reactive<BenchInputs>(JSON.parse(JSON.stringify(bench)) as BenchInputs)
  const saving = useAsked()
  const changed = new Set<Part>()
  let turn: Promise<void> = Promise.resolve()
  /** Sends what was changed, after what is still on its way. */
  const flush = () =>
    (turn = turn.then(async () => {
      while (changed.size > 0) {
        const parts = [...changed]
        changed.clear()
        const json = Object.fromEntries(
          parts.map((part) => [part, say[part] === undefined ? null : JSON.parse(JSON.stringify(say[part]))]),
        ) as BenchInputs
        await saving.ask(() => got(api.jobs[':id'].bench.$put({ param: { id: jobId }, json })))
      }
    }))
  const send = useDebounceFn(async () => {
    await flush()
    onSaid()
  }, 200)
  return {
    say,
    /** The same for judging, not watched: a course of the supply reads its figures thousands of times. */
    said: computed(() => JSON.parse(JSON.stringify(say)) as BenchInputs),
    saving,
    flush,
    /** Says one part of the bench anew, and keeps it. */
    tell<P extends Part>(part: P, value: NonNullable<BenchInputs[P]>) {
      Object.assign(say, { [part]: value })
      changed.add(part)
      void send()
    },
    keep(...parts: Part[]) {
      for (const part of parts) changed.add(part)
      void send()
    },
  }
}

export type BenchDesk = ReturnType<typeof useBenchSay>
export const benchDesk: InjectionKey<BenchDesk> = Symbol('bench')
