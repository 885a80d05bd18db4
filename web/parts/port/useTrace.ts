import { readTrace, traceRows, type TraceEvent, type TraceHead, type TraceRow } from '@bench-wake/core/link'
import { onScopeDispose, ref, shallowRef, triggerRef } from 'vue'

/** Most rows that are shown; older ones are in the saved file. */
const maxRows = 50_000

/** A trace as rows: of a port as it runs, or of a file, at once or in its own time. */
export function useTrace() {
  const rows = shallowRef<TraceRow[]>([])
  const head = ref<TraceHead | null>(null)
  /** How the rows come: from a port's stream, or from a file, at a speed or all at once. */
  const source = ref<'port' | 'file' | null>(null)
  const joined = ref(false)
  const playing = ref(false)
  let read: (event: TraceEvent) => TraceRow[] = () => []
  let stream: EventSource | undefined
  let timer: ReturnType<typeof setTimeout> | undefined

  const begin = (of: TraceHead) => {
    head.value = of
    read = traceRows(of.speech)
    rows.value = []
  }
  const take = (events: readonly TraceEvent[]) => {
    for (const event of events) rows.value.push(...read(event))
    if (rows.value.length > maxRows) rows.value.splice(0, rows.value.length - maxRows)
    triggerRef(rows)
  }
  const stop = () => {
    stream?.close()
    stream = undefined
    clearTimeout(timer)
    playing.value = false
    joined.value = false
  }

  function follow(port: string): void {
    stop()
    source.value = 'port'
    stream = new EventSource(`/api/ports/trace/live?port=${encodeURIComponent(port)}`)
    stream.onopen = () => (joined.value = true)
    stream.onerror = () => (joined.value = false)
    stream.addEventListener('head', (message) =>
      begin(JSON.parse((message as MessageEvent<string>).data) as TraceHead),
    )
    stream.addEventListener('trace', (message) =>
      take(JSON.parse((message as MessageEvent<string>).data) as TraceEvent[]),
    )
  }

  /**
   * Shows a saved trace.
   * @param speed 0 for all of it at once; else that many times as fast as it went.
   * @throws Problem `trace-file`.
   */
  function play(text: string, speed: number): void {
    const trace = readTrace(text)
    stop()
    source.value = 'file'
    begin(trace.head)
    if (speed === 0) return take(trace.events)
    playing.value = true
    let next = 0
    const begun = performance.now()
    const first = trace.events[0]?.at ?? 0
    const step = () => {
      const until = first + (performance.now() - begun) * speed
      const from = next
      while (next < trace.events.length && trace.events[next]!.at <= until) next++
      if (next > from) take(trace.events.slice(from, next))
      playing.value = next < trace.events.length
      if (playing.value) timer = setTimeout(step, 50)
    }
    step()
  }

  onScopeDispose(stop)
  return { rows, head, source, joined, playing, follow, play, stop }
}
