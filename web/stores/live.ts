import { foldEvent, timeLeft, type RunState, type WakeEvent } from '@bench-wake/core/run'
import { useIntervalFn, useThrottleFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, markRaw, reactive, ref, watch } from 'vue'
import { answers, api, got } from './api'
import { cue } from './cue'

/** How often the band asks whether a run was started elsewhere, ms. */
const lookEveryMs = 4000
/** A stream that is behind what the program has, and silent this long, is asked for anew, ms. */
const silentMs = 12_000
/** An answer that takes longer does not come: what it went over is gone, and nobody said so, ms. */
const answerMs = 20_000
/** Events that come one upon the other are taken together, ms: drawn one by one, a screen falls behind a quick run. */
const takeEveryMs = 50

interface Followed {
  state: RunState | null
  /** When the newest event came here, by this computer's clock. */
  heardAt: number
  /** False while the stream is broken; it comes back by itself. */
  joined: boolean
  events: WakeEvent[]
  source: EventSource | undefined
}

/** Runs under way, followed by their event streams; each is folded here by the same function as on the server. */
export const useLive = defineStore('live', () => {
  const followed = reactive(new Map<string, Followed>())
  const tick = ref(Date.now())
  /** Damaged rows, records and files in the data. */
  const damaged = ref(0)
  useIntervalFn(() => {
    if (followed.size > 0) tick.value = Date.now()
  }, 200)

  function follow(id: string): void {
    const known = followed.get(id)
    // A run that was over goes on with a leg more: its stream is opened again from where it ended.
    if (known && (known.source || known.state?.outcome === 'proved')) return
    const source = new EventSource(`/api/runs/${id}/live?after=${known?.state?.seq ?? 0}`)
    followed.set(id, {
      state: known?.state ?? null,
      heardAt: Date.now(),
      joined: false,
      events: known?.events ?? [],
      source,
    })
    const run = followed.get(id)!
    const came: WakeEvent[] = []
    let heardAt = 0
    let newest = run.state?.seq ?? 0
    const take = () => {
      const fresh = came.splice(0)
      if (fresh.length === 0) return
      const state = fresh.reduce(foldEvent, run.state)
      run.joined = true
      run.state = state && markRaw(state)
      for (const event of fresh) run.events.push(markRaw(event))
      run.heardAt = heardAt
    }
    source.onopen = () => (run.joined = true)
    source.onerror = () => {
      // What came before it broke is in the state that it is asked for anew from.
      take()
      run.joined = false
      // A stream that was refused does not come back by itself: it is asked for anew with the runs that are under way.
      if (source.readyState === EventSource.CLOSED) run.source = undefined
      void lookForRuns()
    }
    const takeSoon = useThrottleFn(take, takeEveryMs, true)
    source.addEventListener('wake', (message) => {
      const event = JSON.parse((message as MessageEvent<string>).data) as WakeEvent
      if (event.seq <= newest) return
      newest = event.seq
      came.push(event)
      heardAt = Date.now()
      // Old events read again at the start are silent; only what happens now is heard.
      if (heardAt - openedAt > 1500) cueFor(event)
      void takeSoon()
    })
    source.addEventListener('over', () => {
      source.close()
      take()
      run.joined = true
      run.source = undefined
    })
    const openedAt = Date.now()
  }

  function cueFor({ body }: WakeEvent): void {
    if (body.type === 'prompt.asked') cue('ask')
    if (body.type === 'failed' || body.type === 'cut') cue('fail')
    if (body.type === 'run.closed') cue('done')
  }

  /** The run's own time now: its last event's, and what has passed since at its speed. */
  function runNow(id: string): number {
    const run = followed.get(id)
    if (!run?.state) return tick.value
    return run.state.at + Math.max(0, tick.value - run.heardAt) * (run.state.facts.speed || 0)
  }

  /** How far the program was with each run when it was asked last; past its end, once it is over. */
  let told = new Map<string, number>()
  /** A stream can be gone without a word, where a laptop slept or a phone changed its network. */
  function followAnew(running: readonly { id: string; state: { seq: number } }[]): void {
    const now = new Map(running.map(({ id, state }) => [id, state.seq]))
    for (const [id, run] of followed) {
      if (!run.source) continue
      if (!now.has(id)) now.set(id, Infinity)
      const behind = (run.state?.seq ?? 0) < (told.get(id) ?? 0)
      if (!behind || Date.now() - run.heardAt < silentMs) continue
      run.source.close()
      run.source = undefined
      run.joined = false
      now.delete(id)
      follow(id)
    }
    told = now
    for (const { id } of running) follow(id)
  }

  let looking = false
  async function lookForRuns(): Promise<void> {
    if (looking) return
    looking = true
    const giveUp = new AbortController()
    const late = setTimeout(() => giveUp.abort(), answerMs)
    const init = { init: { signal: giveUp.signal } }
    const running = await got<{ id: string; state: { seq: number } }[]>(api.runs.$get({}, init)).catch(
      () => null,
    )
    if (running) followAnew(running)
    damaged.value =
      (await got<{ damaged: number }>(api.health.$get({}, init)).catch(() => null))?.damaged ?? damaged.value
    clearTimeout(late)
    looking = false
  }
  void lookForRuns()
  useIntervalFn(() => void lookForRuns(), lookEveryMs)
  // One that does not answer is asked more often: it is said at once when it does.
  const { pause, resume } = useIntervalFn(() => void lookForRuns(), 1000, { immediate: false })
  watch(answers, (now) => (now ? pause() : resume()))

  const running = computed(() =>
    [...followed].flatMap(([id, { state }]) =>
      state?.outcome === 'running' ? [{ id, state, leftMs: timeLeft(state, runNow(id)) ?? 0 }] : [],
    ),
  )

  return { followed, running, damaged, follow, runNow, lookForRuns }
})
