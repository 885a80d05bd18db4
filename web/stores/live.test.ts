import type { WakeEvent } from '@bench-wake/core/run'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { watch } from 'vue'
import { useLive } from './live'

/** What a browser gives of a stream; the test sends on it. */
class Stream extends EventTarget {
  static readonly CLOSED = 2
  static asked: Stream[] = []
  readyState = 1
  onopen: (() => void) | undefined
  onerror: (() => void) | undefined
  constructor(readonly path: string) {
    super()
    Stream.asked.push(this)
  }
  close() {
    this.readyState = Stream.CLOSED
  }
  send(...events: WakeEvent[]) {
    for (const event of events)
      this.dispatchEvent(Object.assign(new Event('wake'), { data: JSON.stringify(event) }))
  }
}

/** A write that is under way. */
const bodies = [
  { type: 'run.opened', component: { id: 'main' }, image: { id: 'image-1' }, plan: [{ kind: 'write' }] },
  { type: 'step.started', step: 0 },
  ...Array.from({ length: 40 }, (_, index) => ({
    type: 'progress',
    step: 0,
    done: index * 100,
    total: 4000,
  })),
]
const events = bodies.map((body, index) => ({
  ...{ seq: index + 1, at: index * 10, prev: '', hash: '' },
  body,
})) as unknown as WakeEvent[]

describe('a run that is followed', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    vi.stubGlobal('EventSource', Stream)
    vi.stubGlobal('fetch', () => Promise.reject(new Error('nobody is there')))
    Stream.asked = []
    setActivePinia(createPinia())
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  it('is drawn twice for forty events that come one upon the other, and has each of them once, in order', () => {
    const live = useLive()
    live.follow('run-1')
    const run = live.followed.get('run-1')!
    let drawn = 0
    watch(
      () => run.state,
      () => drawn++,
      { flush: 'sync' },
    )
    Stream.asked[0]!.send(...events)
    // The first one at once: what a person waits for is not put off.
    expect(run.state?.seq).toBe(1)
    vi.advanceTimersByTime(50)
    expect(run.state?.seq).toBe(events.length)
    expect(drawn).toBe(2)
    expect(run.events.map(({ seq }) => seq)).toEqual(events.map(({ seq }) => seq))
  })

  it('that is over has all that came before the word of it', () => {
    const live = useLive()
    live.follow('run-1')
    const [stream] = Stream.asked
    stream!.send(...events)
    stream!.dispatchEvent(new Event('over'))
    expect(live.followed.get('run-1')).toMatchObject({ state: { seq: events.length }, source: undefined })
    expect(stream!.readyState).toBe(Stream.CLOSED)
  })

  /** The program answers again, with what it has of each run that is under way. */
  const has = (...running: { id: string; state: { seq: number } }[]) =>
    vi.stubGlobal('fetch', async (path: string) =>
      Response.json(path.endsWith('/health') ? { damaged: 0 } : running),
    )
  /** Looks of a page every four seconds, as long as this. */
  const passes = async (live: ReturnType<typeof useLive>, ms: number) => {
    for (let left = ms; left > 0; left -= 4000) {
      await vi.advanceTimersByTimeAsync(Math.min(4000, left))
      await live.lookForRuns()
    }
  }

  it('whose stream went without a word is asked for anew once the program has had more for a while', async () => {
    const live = useLive()
    has({ id: 'run-1', state: { seq: 10 } })
    await passes(live, 4000)
    const [first] = Stream.asked
    first!.onopen!()
    first!.send(...events.slice(0, 10))
    // It has all that there is, however long nothing comes.
    await passes(live, 60_000)
    expect(Stream.asked).toHaveLength(1)
    expect(live.followed.get('run-1')!.joined).toBe(true)
    has({ id: 'run-1', state: { seq: 11 } })
    await passes(live, 4000)
    expect(Stream.asked).toHaveLength(1)
    await passes(live, 4000)
    expect(first!.readyState).toBe(Stream.CLOSED)
    expect(Stream.asked.map(({ path }) => path).slice(1)).toEqual(['/api/runs/run-1/live?after=10'])
    expect(live.followed.get('run-1')!.joined).toBe(false)
    Stream.asked[1]!.send(...events)
    await passes(live, 60_000)
    expect(Stream.asked).toHaveLength(2)
    expect(live.followed.get('run-1')).toMatchObject({ joined: true, state: { seq: events.length } })
  })

  it('that speaks is left alone, though it is behind: a slow page is given its time', async () => {
    const live = useLive()
    has({ id: 'run-1', state: { seq: events.length } })
    await passes(live, 4000)
    for (const event of events.slice(0, 10)) {
      Stream.asked[0]!.send(event)
      await passes(live, 8000)
    }
    expect(Stream.asked).toHaveLength(1)
    await passes(live, 8000)
    expect(Stream.asked).toHaveLength(2)
  })

  it('that the program has no more, and of whose end nothing came, is asked for its end', async () => {
    const live = useLive()
    has({ id: 'run-1', state: { seq: 5 } })
    await passes(live, 4000)
    Stream.asked[0]!.send(...events.slice(0, 5))
    await passes(live, 20_000)
    // A program that does not answer says nothing of any run.
    vi.stubGlobal('fetch', () => Promise.reject(new Error('nobody is there')))
    await passes(live, 60_000)
    expect(Stream.asked).toHaveLength(1)
    has()
    await passes(live, 8000)
    expect(Stream.asked.map(({ path }) => path).slice(1)).toEqual(['/api/runs/run-1/live?after=5'])
    Stream.asked[1]!.send(...events.slice(5))
    Stream.asked[1]!.dispatchEvent(new Event('over'))
    await passes(live, 60_000)
    expect(Stream.asked).toHaveLength(2)
    expect(live.followed.get('run-1')).toMatchObject({ source: undefined, state: { seq: events.length } })
  })

  it('is looked for again after a look that was never answered', async () => {
    let asked = 0
    vi.stubGlobal('fetch', (_: string, init?: RequestInit) => {
      asked++
      return new Promise((_, fail) => {
        if (init?.signal?.aborted) fail(new Error('given up'))
        init?.signal?.addEventListener('abort', () => fail(new Error('given up')))
      })
    })
    const live = useLive()
    await vi.advanceTimersByTimeAsync(19_000)
    void live.lookForRuns()
    expect(asked).toBe(1)
    await vi.advanceTimersByTimeAsync(1500)
    has({ id: 'run-1', state: { seq: 5 } })
    await live.lookForRuns()
    expect(Stream.asked).toHaveLength(1)
  })

  it('whose stream was refused is asked for from the last event that came, and has none of them twice', () => {
    const live = useLive()
    live.follow('run-1')
    const [first] = Stream.asked
    first!.send(...events.slice(0, 10))
    first!.readyState = Stream.CLOSED
    first!.onerror!()
    expect(live.followed.get('run-1')!.joined).toBe(false)
    live.follow('run-1')
    const [, second] = Stream.asked
    expect(second!.path).toBe('/api/runs/run-1/live?after=10')
    // A stream that resumes by itself may say some again.
    second!.send(...events.slice(5))
    vi.runOnlyPendingTimers()
    const run = live.followed.get('run-1')!
    expect(run.events.map(({ seq }) => seq)).toEqual(events.map(({ seq }) => seq))
    expect(run.state?.seq).toBe(events.length)
  })
})
